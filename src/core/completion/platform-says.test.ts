import { describe, expect, it } from 'vitest';
import { sayPlatform } from './platform-says';

const at = Date.parse('2026-11-09T10:00:00Z');
const nothing = { progress: null, ms: 0 };

describe('what the platform says', () => {
  it('is said as its own, with its day', () => {
    expect(sayPlatform({ progress: 45.4, minutes: 190, at }, nothing, 'UTC')).toBe(
      'the platform says 45 %, 3 h 10 min (Mon 9 Nov)',
    );
    expect(sayPlatform({ progress: 0, minutes: null, at }, nothing, 'UTC', Date.parse('2027-01-04T00:00:00Z'))).toBe(
      'the platform says 0 % (Mon 9 Nov 2026)',
    );
  });
  it('gives way to what we know', () => {
    expect(sayPlatform({ progress: 45, minutes: 190, at }, { progress: 0.5, ms: 60_000 }, 'UTC')).toBeNull();
    expect(sayPlatform({ progress: 45, minutes: null, at }, { progress: null, ms: 60_000 }, 'UTC')).toBe(
      'the platform says 45 % (Mon 9 Nov)',
    );
    expect(sayPlatform(null, nothing, 'UTC')).toBeNull();
  });
});
