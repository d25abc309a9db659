import { act, cleanup, renderHook } from '@testing-library/react';
import { afterEach, beforeEach, expect, it, vi } from 'vitest';

vi.mock('next/navigation', () => ({ useRouter: () => ({ push }) }));
vi.mock('../(frame)/write/actions', () => ({ startWriting }));
vi.mock('./actions', () => ({}));

const push = vi.hoisted(() => vi.fn());
const startWriting = vi.hoisted(() => vi.fn(async () => null));

const { usePeople } = await import('./use-people');

const PEOPLE = ['Ines', 'Petra', 'Oriel', 'Søren'].map((name, index) => ({
  id: index + 1,
  learnerId: `L${index + 1}`,
  name,
}));

beforeEach(() => {
  vi.clearAllMocks();
  document.body.innerHTML = '';
});
afterEach(() => {
  cleanup();
  window.history.replaceState(null, '', '/');
});

function open(people = PEOPLE, more: Partial<Parameters<typeof usePeople>[0]> = {}) {
  const view = renderHook(
    ({ list }) => usePeople({ people: list, today: 20_000, here: '/watch?in=course:DRY', ...more }),
    { initialProps: { list: people } },
  );
  // Rows that keys can be pressed in.
  people.forEach((_, index) => {
    const row = document.createElement('div');
    row.tabIndex = 0;
    document.body.append(row);
    act(() => view.result.current.rowProps(index).ref(row));
  });
  return view;
}

const press = (key: string) =>
  act(() => {
    const target = document.activeElement ?? document.body;
    target.dispatchEvent(new KeyboardEvent('keydown', { key, bubbles: true, cancelable: true }));
  });

it('the arrows lead into the list and through it, and stop at its ends', () => {
  const { result } = open();
  press('ArrowDown');
  expect(result.current.person?.name).toBe('Ines');
  press('ArrowDown');
  press('ArrowDown');
  expect(result.current.person?.name).toBe('Oriel');
  press('End');
  press('ArrowDown');
  expect(result.current.person?.name).toBe('Søren');
  press('Home');
  expect(result.current.cursor).toBe(0);
});

it('Enter opens the page of the one under the cursor, with the list to come back to', () => {
  open();
  press('ArrowDown');
  press('Enter');
  expect(push).toHaveBeenCalledWith(`/learners/L1?from=${encodeURIComponent('/watch?in=course:DRY')}`);
});

it('the cursor stays with its person while the list is put in another order, and in its place when they leave', () => {
  const { result, rerender } = open();
  act(() => result.current.go(2));
  expect(result.current.person?.name).toBe('Oriel');
  rerender({ list: [PEOPLE[2], PEOPLE[0], PEOPLE[1], PEOPLE[3]] });
  expect(result.current).toMatchObject({ cursor: 0, person: { name: 'Oriel' } });
  rerender({ list: [PEOPLE[0], PEOPLE[1], PEOPLE[3]] });
  expect(result.current).toMatchObject({ cursor: 0, person: { name: 'Ines' } });
  rerender({ list: [] });
  expect(result.current.person).toBeUndefined();
});

it('Space selects and lets go; writing is to the selected, each once', async () => {
  const { result } = open();
  press('ArrowDown');
  press(' ');
  press('ArrowDown');
  press(' ');
  expect([...result.current.selected]).toEqual([1, 2]);
  press(' ');
  expect([...result.current.selected]).toEqual([1]);
  act(() => result.current.toggle(3));
  await act(async () => press('w'));
  expect(startWriting).toHaveBeenCalledWith([1, 3], '/watch?in=course:DRY', undefined);
});

it('writing is to the one under the cursor where nobody is selected', async () => {
  const { result } = open();
  act(() => result.current.go(1));
  await act(async () => press('w'));
  expect(startWriting).toHaveBeenCalledWith([2], '/watch?in=course:DRY', undefined);
});

it('a link to a colleague opens at the person in it', () => {
  window.history.replaceState(null, '', '/watch?person=L3');
  const { result } = open(PEOPLE, { inAddress: true });
  expect(result.current.person?.name).toBe('Oriel');
  act(() => result.current.go(1));
  expect(window.location.search).toBe('?person=L2');
});

it('one person may stand on several rows: the cursor goes by the row, a message by the person', async () => {
  const rows = [
    { ...PEOPLE[0], row: 11 },
    { ...PEOPLE[0], row: 12 },
    { ...PEOPLE[1], row: 13 },
  ];
  const { result } = open(rows);
  act(() => result.current.go(1));
  expect(result.current.cursor).toBe(1);
  act(() => result.current.setSelected(new Set([11, 12, 13])));
  await act(async () => press('w'));
  expect(startWriting).toHaveBeenCalledWith([1, 2], '/watch?in=course:DRY', undefined);
});

it('no letter does anything while somebody types', async () => {
  open();
  const field = document.createElement('input');
  document.body.append(field);
  field.focus();
  await act(async () => press('w'));
  expect(startWriting).not.toHaveBeenCalled();
});
