import { act, cleanup, renderHook, waitFor } from '@testing-library/react';
import { afterEach, beforeEach, expect, it, vi } from 'vitest';
import { useRoll, type OnRoll } from './use-roll';

const PEOPLE: OnRoll[] = ['L1', 'L2'].map((learnerId) => ({
  learnerId,
  name: learnerId,
  group: null,
  mark: null,
  remark: '',
  change: 0,
  by: null,
  at: null,
  hint: '',
}));

interface Sent {
  marks: { learner_id: string; mark?: string; seen: number }[];
  replace: boolean;
}

let sent: Sent[];
/** What the server answers next; a network that is down throws. */
let answers: (() => Promise<Response>)[];

const taken =
  (changes: Record<string, number>, more: object = {}) =>
  async () =>
    Response.json({ changes, conflicts: [], refused: [], ...more });
const down = async () => {
  throw new TypeError('Failed to fetch');
};

beforeEach(() => {
  sent = [];
  answers = [];
  localStorage.clear();
  vi.stubGlobal('fetch', async (_path: string, { body }: { body: string }) => {
    sent.push(JSON.parse(body));
    return (answers.shift() ?? down)();
  });
});
afterEach(() => {
  cleanup();
  vi.unstubAllGlobals();
});

const open = (staffId = 1) => renderHook(() => useRoll('S1', staffId, PEOPLE));

it('a mark is there at once, is sent, and rests on what was stored when it is changed', async () => {
  answers = [taken({ L1: 7 }), taken({ L1: 8 })];
  const { result } = open();
  act(() => result.current.give(['L1'], { mark: 'present' }));
  expect(result.current.of('L1').mark).toBe('present');
  await waitFor(() => expect(result.current.state).toBe('saved'));
  expect(sent[0]).toMatchObject({ marks: [{ learner_id: 'L1', mark: 'present', seen: 0 }], replace: false });
  act(() => result.current.give(['L1'], { mark: 'late' }));
  await waitFor(() => expect(result.current.state).toBe('saved'));
  expect(sent[1].marks).toEqual([{ learner_id: 'L1', mark: 'late', remark: '', seen: 7 }]);
});

it('without a connection marks wait on the device, and go when it returns, also after the page was closed', async () => {
  const first = open();
  act(() => first.result.current.give(['L1', 'L2'], { mark: 'absent' }));
  await waitFor(() => expect(first.result.current.state).toBe('waiting'));
  expect(first.result.current.waiting).toBe(2);
  first.unmount();
  const second = open();
  await waitFor(() => expect(second.result.current.waiting).toBe(2));
  expect(second.result.current.of('L2').mark).toBe('absent');
  answers = [taken({ L1: 1, L2: 2 })];
  act(() => void window.dispatchEvent(new Event('online')));
  await waitFor(() => expect(second.result.current.state).toBe('saved'));
  expect(second.result.current.waiting).toBe(0);
  expect(localStorage.length).toBe(0);
});

it('what one person has marked on a device is never sent under another’s name', async () => {
  const first = open(1);
  act(() => first.result.current.give(['L1'], { mark: 'absent' }));
  await waitFor(() => expect(first.result.current.state).toBe('waiting'));
  first.unmount();
  const other = open(2);
  expect(other.result.current.waiting).toBe(0);
  expect(sent).toHaveLength(1);
});

it('what is marked while the last is on its way goes after it, resting on it', async () => {
  let answer: (response: Response) => void = () => undefined;
  answers = [() => new Promise((resolve) => (answer = resolve)), taken({ L1: 2 })];
  const { result } = open();
  act(() => result.current.give(['L1'], { mark: 'present' }));
  act(() => result.current.give(['L1'], { mark: 'late' }));
  expect(sent).toHaveLength(1);
  await act(async () => answer(await taken({ L1: 1 })()));
  await waitFor(() => expect(result.current.state).toBe('saved'));
  expect(sent[1].marks).toEqual([{ learner_id: 'L1', mark: 'late', remark: '', seen: 1 }]);
  expect(result.current.of('L1')).toMatchObject({ mark: 'late', seen: 2 });
});

it('a colleague’s mark is not overwritten until somebody chooses, and the choice outlives the page', async () => {
  const conflict = { learner_id: 'L1', mark: 'excused', remark: '', change: 5, by: 'Mair Tolland', at: 1 };
  answers = [taken({}, { conflicts: [conflict] })];
  const first = open();
  act(() => first.result.current.give(['L1'], { mark: 'absent' }));
  await waitFor(() => expect(first.result.current.conflicts).toHaveLength(1));
  // Until then theirs holds.
  expect(first.result.current.of('L1').mark).toBe('excused');
  first.unmount();
  const second = open();
  await waitFor(() => expect(second.result.current.conflicts).toHaveLength(1));
  answers = [taken({ L1: 6 })];
  act(() => second.result.current.settle(second.result.current.conflicts[0], true));
  await waitFor(() => expect(second.result.current.state).toBe('saved'));
  expect(sent.at(-1)!.marks).toMatchObject([{ learner_id: 'L1', mark: 'absent', seen: 5 }]);
  expect(second.result.current.conflicts).toEqual([]);
  expect(localStorage.length).toBe(0);
});

it('theirs is left without another word to the server', async () => {
  const conflict = { learner_id: 'L1', mark: 'excused', remark: '', change: 5, by: 'Mair Tolland', at: 1 };
  answers = [taken({}, { conflicts: [conflict] })];
  const { result } = open();
  act(() => result.current.give(['L1'], { mark: 'absent' }));
  await waitFor(() => expect(result.current.conflicts).toHaveLength(1));
  act(() => result.current.settle(result.current.conflicts[0], false));
  expect(result.current.conflicts).toEqual([]);
  expect(result.current.of('L1').mark).toBe('excused');
  expect(sent).toHaveLength(1);
});

it('an undo puts back what the last press changed, everybody of it', async () => {
  answers = [taken({ L1: 1, L2: 2 }), taken({ L1: 3, L2: 4 })];
  const { result } = open();
  act(() => result.current.give(['L1', 'L2'], { mark: 'present' }));
  await waitFor(() => expect(result.current.state).toBe('saved'));
  act(() => result.current.undo());
  await waitFor(() => expect(result.current.state).toBe('saved'));
  expect(sent[1].marks).toEqual([
    { learner_id: 'L1', remark: '', seen: 1 },
    { learner_id: 'L2', remark: '', seen: 2 },
  ]);
  act(() => result.current.undo());
  expect(sent).toHaveLength(2);
});

it('what is refused is said, what was taken beside it stays', async () => {
  answers = [taken({ L2: 3 }, { refused: [{ learner_id: 'L1', says: 'L1 has left the course.' }] })];
  const { result } = open();
  act(() => result.current.give(['L1', 'L2'], { mark: 'present' }));
  await waitFor(() => expect(result.current.state).toBe('refused'));
  expect(result.current.trouble).toBe('L1 has left the course.');
  expect(result.current.of('L1').mark).toBeNull();
  expect(result.current.of('L2')).toMatchObject({ mark: 'present', seen: 3 });
});

it('a busy server and a sign-in that ran out are waited for; a refusal is not', async () => {
  for (const [status, state] of [
    [503, 'waiting'],
    [401, 'waiting'],
    [400, 'refused'],
  ] as const) {
    localStorage.clear();
    answers = [async () => Response.json({ detail: 'No' }, { status })];
    const { result, unmount } = open();
    act(() => result.current.give(['L1'], { mark: 'present' }));
    await waitFor(() => expect(result.current.state).toBe(state));
    expect(result.current.trouble).toBe('No');
    unmount();
  }
});
