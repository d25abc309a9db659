import { describe, expect, it } from 'vitest';
import { recognise, type Recognised } from './recognise';
import { findTable, isSums } from './table';

function take(text: string): Recognised | null {
  const rows = text.split('\n').map((line) => (line === '' ? [] : line.split(';')));
  const head = findTable(rows)!;
  return recognise(
    head,
    rows.slice(head.bodyFrom).filter((row) => !isSums(row)),
  );
}

describe('what a table is', () => {
  it('a list of participants with ages', () => {
    expect(
      take(
        'Name;E-Mail-Adresse;Gruppe;Letzter Zugriff\nQuarrie, Bram;L1@S.EXAMPLE;A;16 Stunden 29 Minuten\nFarrow, Quentin;L2@S.EXAMPLE;B;Nie',
      ),
    ).toMatchObject({ kind: 'participants', roles: ['name', 'email', 'group', 'last_access'], items: [] });
  });

  it('a click log with names and titles', () => {
    expect(
      take(
        'Activity of Hatchery\nTimes are those of Dublin\nDate;Full name;Account;Where;What\n2026-09-28T13:17:04;Cerys Nancarrow;l1@s.example;;signed_in\n2026-09-28T13:17:44;Cerys Nancarrow;l1@s.example;Video 1;played',
      ),
    ).toMatchObject({ kind: 'access-log', roles: ['time', 'name', 'email', 'item', 'action'] });
  });

  it('a gradebook, with what each item is out of and its total left out', () => {
    const found = take(
      'Relevé de notes : Hatchery\n\nNom;Prénom;Courriel;Quiz 1;Essai;Total du cours\nBarème;;;20;100;\nMarrow;Ines;i@s.example;6,6;–;6,6\nQuill;Petra;p@s.example;13,1;88,7;101,8\nMoyenne;;;9,9;88,7;',
    )!;
    expect(found).toMatchObject({
      kind: 'gradebook',
      roles: ['family_name', 'given_name', 'email', null, null, null],
      items: [
        { index: 3, title: 'Quiz 1', points: 20 },
        { index: 4, title: 'Essai', points: 100 },
      ],
      leftOut: [{ index: 5, why: 'total' }],
    });
  });

  it('a grid of what is done, an item that nobody has done with it', () => {
    const found = take('Learner;Mail;Page 1;Quiz 1;Page 2\nInes;i@s.example;✓;✗;\nPetra;p@s.example;✓;✓;')!;
    expect(found.kind).toBe('completion');
    expect(found.items.map(({ title }) => title)).toEqual(['Page 1', 'Quiz 1', 'Page 2']);
  });

  it('a meeting’s list with totals alone', () => {
    expect(
      take('Meeting report\nBegan;14/10/2026 18:30\n\nParticipant;Time in meeting\nCerys;51 min 05 s\nBram;4 min 00 s'),
    ).toMatchObject({ kind: 'presence', roles: ['name', 'duration'] });
  });

  it('one name column called Nom is all of the name', () => {
    expect(take('Nom;Dernier accès\nInes Marrow;jamais\nPetra Quill;2 jours')!.roles).toEqual(['name', 'last_access']);
  });

  it('says what else it could be, and leaves out what it does not understand', () => {
    const found = take('Name;Last access;Quiz 1 (20);Remark\nInes;never;17;came late\nPetra;2 days;12;–')!;
    expect(found.kind).toBe('participants');
    expect(found.others).toEqual([{ kind: 'gradebook', sure: 0.4 }]);
    expect(found.leftOut).toEqual([
      { index: 2, why: 'not understood' },
      { index: 3, why: 'not understood' },
    ]);
  });

  it('nothing, where nobody is in it, or nothing about them', () => {
    expect(take('Item;Points\nKnots;20\nBends;10')).toBeNull();
    expect(take('Name;Colour\nInes;red\nPetra;blue')).toBeNull();
  });
});
