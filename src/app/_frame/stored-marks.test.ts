import { describe, expect, it } from 'vitest';
import { keepOne, readKept, sessionsWaiting, type OwnMark } from './stored-marks';

/** A device's storage; `full` refuses to keep anything. */
function storage(full = false) {
  const kept = new Map<string, string>();
  return {
    getItem: (key: string) => kept.get(key) ?? null,
    setItem: (key: string, value: string) => {
      if (full) throw new Error('no room');
      kept.set(key, value);
    },
    removeItem: (key: string) => void kept.delete(key),
    key: (index: number) => [...kept.keys()][index] ?? null,
    get length() {
      return kept.size;
    },
  };
}
const of = (learnerId: string, sessionId = 'S.1', staffId = 7) => ({ learnerId, sessionId, staffId });
const mark = (code: string): OwnMark => ({ mark: code, remark: '', seen: 0 });

describe('marks that wait on a device', () => {
  it('are kept each by itself, so that what two tabs keep stands side by side', () => {
    const device = storage();
    keepOne(device, 'mark', of('L1'), mark('present'));
    // Another tab, which knows nothing of the first.
    keepOne(device, 'mark', of('L.2'), mark('late'));
    expect(readKept(device, 'mark', 7, 'S.1')).toEqual({ L1: mark('present'), 'L.2': mark('late') });
    keepOne(device, 'mark', of('L1'), null);
    expect(readKept(device, 'mark', 7, 'S.1')).toEqual({ 'L.2': mark('late') });
  });

  it('are one person’s and one session’s', () => {
    const device = storage();
    keepOne(device, 'mark', of('L1'), mark('present'));
    keepOne(device, 'mark', of('L1', 'S'), mark('absent'));
    keepOne(device, 'mark', of('L1', 'S.1', 8), mark('late'));
    expect(readKept(device, 'mark', 8, 'S.1')).toEqual({ L1: mark('late') });
    expect(readKept(device, 'mark', 7, 'S')).toEqual({ L1: mark('absent') });
    expect(sessionsWaiting(device, 7).sort()).toEqual(['S', 'S.1']);
    expect(sessionsWaiting(device, 9)).toEqual([]);
  });

  it('stand beside conflicts, and what cannot be read or kept is nothing', () => {
    const device = storage();
    keepOne(device, 'conflict', of('L1'), { own: mark('present') });
    expect(readKept(device, 'mark', 7, 'S.1')).toEqual({});
    expect(readKept(device, 'conflict', 7, 'S.1')).toEqual({ L1: { own: mark('present') } });
    device.setItem('lee-shore.roll.mark.7.S%2E1.L9', '{broken');
    expect(readKept(device, 'mark', 7, 'S.1')).toEqual({});
    expect(keepOne(storage(true), 'mark', of('L1'), mark('present'))).toBe(false);
  });
});
