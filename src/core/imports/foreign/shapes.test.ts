import { describe, expect, it } from 'vitest';
import { CsvReader } from '../csv-reader';
import { recogniseFile } from '../recognise-file';
import { delimiterOfHead } from './plan';

/** What a file is taken for: its kind, and what each column is about; an item by its title. */
function taken(text: string): string {
  const delimiter = delimiterOfHead(text);
  const reader = new CsvReader(delimiter);
  const rows = [...reader.push(text), ...reader.finish()].map(({ cells }) => cells);
  const recognition = recogniseFile(rows, delimiter);
  if (recognition.how !== 'foreign') return recognition.how;
  const { kind, roles, items } = recognition.found.recognised;
  const columns = roles.map((role, index) => role ?? items.find((item) => item.index === index)?.title ?? '-');
  return `${kind}: ${columns.join(' ')}`;
}

describe('files as they are met', () => {
  it.each<[string, string, string]>([
    [
      'headings over two lines, clocks of twelve hours',
      '"Attendance\nreport"\nLearner,"Came in\n(local)",Went out\nInes Marrow,11/14/2026 6:30 PM,11/14/2026 7:31 PM\n',
      'presence: name entered left',
    ],
    [
      'words for headings',
      'Benutzer;Zeit;Was;Wo\nInes Marrow;14.11.26 18:30;angesehen;Knoten\n',
      'access-log: name time action item',
    ],
    [
      'passed and failed',
      'Learner,Email,Knots,Walls\nInes,i@l.example,Pass,Fail\nTobias,t@l.example,Pass,\n',
      'completion: name email Knots Walls',
    ],
    [
      'shares for per cent',
      'Name,Completion,Last login\nInes Marrow,0.45,2026-11-20\nTobias Quill,1,\n',
      'participants: name progress last_access',
    ],
    [
      'Swedish',
      'Förnamn;Efternamn;Senast inloggad\nInes;Marrow;2 dagar\nTobias;Quill;Aldrig\n',
      'participants: given_name family_name last_access',
    ],
    [
      'a column of names without a heading',
      ',Knots,Walls\nInes Marrow,15,62\nTobias Quill,,60\n',
      'gradebook: name Knots Walls',
    ],
    [
      'a piece a row',
      'Name,Score,Max score,Date taken,Test\nInes Marrow,15,20,20/11/2026,Knots\n',
      'gradebook: name score points submitted_at item',
    ],
    [
      'a state a row',
      'User;Lesson;State\nInes Marrow;Knots;Completed\nInes Marrow;Walls;In progress\n',
      'completion: name item done',
    ],
    [
      'a mark a row',
      'Date,Learner,Status\n28/09/2026,Ines Marrow,Present\n28/09/2026,Tobias Quill,Absent\n',
      'marks: time name mark',
    ],
    [
      'a meeting with a time and a length',
      'Time,Attendee,Duration\n2026-11-18 18:29,Ines Marrow,62 min\n',
      'presence: entered name duration',
    ],
    [
      'what was done and when',
      'When,Who,Lesson,Status\n2026-11-18 18:29,Ines Marrow,Knots,Completed\n',
      'completion: done_at name item done',
    ],
    [
      'what was scored and when',
      'Date,Learner,Test,Score\n2026-11-18,Ines Marrow,Knots,15\n',
      'gradebook: submitted_at name item score',
    ],
    ['minutes alone', 'Attendee,Minutes\nInes Marrow,62\nTobias Quill,10\n', 'presence: name duration'],
    [
      'minutes of a platform',
      'Learner,Progress,Total time\nInes Marrow,45 %,62\nTobias Quill,10 %,0\n',
      'participants: name progress minutes',
    ],
    [
      'names of programs’ fields',
      'firstName,lastName,lastAccess,courseName\nInes,Marrow,2026-11-20 10:00,Walls\n',
      'participants: given_name family_name last_access course',
    ],
    [
      'one title three times',
      'Name,Quiz,Quiz,Quiz\nInes Marrow,1,2,3\nTobias Quill,4,5,6\n',
      'gradebook: name Quiz Quiz Quiz',
    ],
    [
      'what says nothing of work',
      'Name,Department,Phone,Knots,Final grade\nInes Marrow,,,15,15\nTobias Quill,,,12,12\n',
      'gradebook: name - - Knots -',
    ],
    [
      'a day somebody joined on',
      'Name,Email,Joined\nInes Marrow,i@l.example,28/09/2026\nTobias Quill,t@l.example,05/10/2026\n',
      'participants: name email enrolled_on',
    ],
  ])('%s', (_what, text, expected) => expect(taken(text)).toBe(expected));
});
