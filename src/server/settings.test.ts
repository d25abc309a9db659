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

  it('take a provider of single sign-on as a whole, and no secret in the open', () => {
    const whole = {
      LEESHORE_OIDC_ISSUER: 'https://sign-in.example/realm',
      LEESHORE_OIDC_CLIENT_ID: 'lee-shore',
      LEESHORE_OIDC_CLIENT_SECRET: 's',
      LEESHORE_URL: 'https://watch.example/',
    };
    expect(readSettings(whole).provider).toEqual({
      ...{ issuer: 'https://sign-in.example/realm', clientId: 'lee-shore', clientSecret: 's' },
      name: 'sign-in.example',
    });
    expect(readSettings({ ...whole, LEESHORE_OIDC_NAME: 'The college' }).provider?.name).toBe('The college');
    expect(readSettings({}).provider).toBeNull();
    for (const [name, says] of [
      ['LEESHORE_OIDC_ISSUER', 'ISSUER: is missing'],
      ['LEESHORE_OIDC_CLIENT_SECRET', 'SECRET: is missing'],
      ['LEESHORE_URL', 'LEESHORE_URL: is missing'],
    ])
      expect(() => readSettings({ ...whole, [name]: '' })).toThrow(says);
    const open = { ...whole, LEESHORE_OIDC_ISSUER: 'http://sign-in.example' };
    expect(() => readSettings(open)).toThrow('does not begin with https://');
    expect(readSettings({ ...whole, LEESHORE_OIDC_ISSUER: 'http://127.0.0.1:4307' }).provider).not.toBeNull();
  });
});
