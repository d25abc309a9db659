import { totalmem } from 'node:os';
import { describe, expect, it } from 'vitest';
import { SettingsFault, readSettings } from './settings';

describe('settings', () => {
  it('name every variable that is wrong, with what would be right', () => {
    const wrong = { PORT: '99999', LEESHORE_MAPPED_MB: 'much', LEESHORE_SMTP_URL: 'mail.example' };
    expect(() => readSettings(wrong)).toThrow(SettingsFault);
    for (const says of ['PORT: is not a port', 'LEESHORE_MAPPED_MB: is not a whole number of MB', 'begins with smtp:'])
      expect(() => readSettings(wrong)).toThrow(says);
  });

  it('map as much of the database as is said, else a quarter of the memory', () => {
    expect(readSettings({ LEESHORE_MAPPED_MB: '64' }).mapped).toBe(64 * 1024 ** 2);
    expect(readSettings({ LEESHORE_MAPPED_MB: '0' }).mapped).toBe(0);
    const { mapped } = readSettings({});
    expect(mapped).toBeGreaterThan(0);
    expect(mapped).toBeLessThanOrEqual(totalmem() / 4);
  });
});
