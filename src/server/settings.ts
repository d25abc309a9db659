/** Settings from the environment, validated at start. */
import { totalmem } from 'node:os';
import { resolve } from 'node:path';
import { IsIn, IsOptional, Matches, MaxLength, ValidateBy, validateSync } from 'class-validator';
import { IsInstant, IsZone } from '@/core/imports/validators';
import { parseInstant } from '@/core/time/instant';

function isUrl(protocols: string[]) {
  const test = (value: unknown) => {
    try {
      return protocols.includes(new URL(String(value)).protocol);
    } catch {
      return false;
    }
  };
  return ValidateBy({
    name: 'isUrl',
    validator: { validate: test, defaultMessage: () => `is not a URL that begins with ${protocols.join(' or ')}//` },
  });
}

class Environment {
  @IsOptional() @Matches(/^\d{1,5}$/, { message: 'is not a port number' }) PORT?: string;
  @IsOptional() LEESHORE_DATA_DIR?: string;
  @IsOptional() @IsInstant() LEESHORE_NOW?: string;
  @IsOptional()
  @Matches(/^\S{16,}$/, { message: 'must have at least 16 characters and no spaces' })
  LEESHORE_API_TOKEN?: string;
  @IsOptional()
  @Matches(/^\S{16,}$/, { message: 'must have at least 16 characters and no spaces' })
  LEESHORE_INBOUND_TOKEN?: string;
  @IsOptional() @isUrl(['smtp:', 'smtps:']) LEESHORE_SMTP_URL?: string;
  @IsOptional() @isUrl(['http:', 'https:']) LEESHORE_SMS_URL?: string;
  @IsOptional()
  @Matches(/^(?=.{1,253}$)[a-z0-9]([a-z0-9-]*[a-z0-9])?(\.[a-z0-9]([a-z0-9-]*[a-z0-9])?)*$/i, {
    message: 'is not a domain such as learn.example',
  })
  LEESHORE_DOMAIN?: string;
  @IsOptional() @IsZone() LEESHORE_TIMEZONE?: string;
  @IsOptional() @Matches(/^\d{1,7}$/, { message: 'is not a whole number of MB' }) LEESHORE_MAPPED_MB?: string;
  @IsOptional()
  @Matches(/^(trace|debug|info|warn|error|silent)$/, { message: 'is not a log level' })
  LEESHORE_LOG?: string;
  @IsOptional() @IsIn(['yes', 'no'], { message: 'is not yes or no' }) LEESHORE_PRIVATE_ADDRESSES?: string;
  @IsOptional() @isUrl(['http:', 'https:']) LEESHORE_URL?: string;
  @IsOptional() @isUrl(['https:', 'http:']) LEESHORE_OIDC_ISSUER?: string;
  @IsOptional() @Matches(/^\S{1,300}$/, { message: 'has a space, or is too long' }) LEESHORE_OIDC_CLIENT_ID?: string;
  @IsOptional()
  @Matches(/^\S{1,1000}$/, { message: 'has a space, or is too long' })
  LEESHORE_OIDC_CLIENT_SECRET?: string;
  @IsOptional() @MaxLength(100, { message: 'is longer than 100 characters' }) LEESHORE_OIDC_NAME?: string;
  @IsOptional() LEESHORE_BACKUP_DIR?: string;
  @IsOptional()
  @Matches(/^([01]\d|2[0-3]):[0-5]\d$/, { message: 'is not a time such as 02:30' })
  LEESHORE_BACKUP_AT?: string;
  @IsOptional()
  @Matches(/^[1-9]\d{0,2}$/, { message: 'is not a number from 1 to 999' })
  LEESHORE_BACKUPS_KEPT?: string;
  @IsOptional() @isUrl(['http:', 'https:']) LEESHORE_DEMO_INBOX?: string;
}

export interface Settings {
  port: number;
  dataDir: string;
  /** Frozen now, or null for the real clock. */
  now: number | null;
  apiToken: string | null;
  /** A token good for bringing in mail and nothing else. */
  inboundToken: string | null;
  smtpUrl: string | null;
  smsUrl: string | null;
  /** The domain in the ids of messages; null for that of the sender's address. */
  domain: string | null;
  /** Only for the first start; later the database says. */
  timezone: string | null;
  logLevel: string;
  /** How much of the database is mapped into memory, in bytes; 0 for none. */
  mapped: number;
  /** May files be fetched from private addresses of the network? */
  allowPrivate: boolean;
  /** Where people open it in a browser, without a slash at its end: for links in mails. Null where nobody has said. */
  url: string | null;
  /** The provider by which people sign in (OpenID Connect), and what the button calls it; null for none. */
  provider: { issuer: string; clientId: string; clientSecret: string; name: string } | null;
  /** Where backups are made by themselves, how many minutes after midnight, and how many are kept; null for none. */
  backups: { dir: string; minute: number; kept: number } | null;
  /** Set by the demo alone: where its mail arrives. Its sign-ins are then shown on the sign-in page. */
  demoInbox: string | null;
}

/** Settings that are wrong, each with what would be right. */
export class SettingsFault extends Error {
  override name = 'SettingsFault';
}

/** A quarter of the memory that there is for this process: the machine's, or what its container may use. */
function quarterOfMemory(): number {
  const allowed = process.constrainedMemory() || Infinity;
  return Math.floor(Math.min(totalmem(), allowed) / 4);
}

/** @throws SettingsFault naming every variable that is wrong and what would be right */
export function readSettings(env: Record<string, string | undefined>): Settings {
  const input = new Environment();
  for (const name of ENVIRONMENT) if (env[name]) input[name] = env[name];
  const faults = validateSync(input).map((e) => `${e.property}: ${Object.values(e.constraints ?? {}).join('; ')}`);
  faults.push(...providerFaults(input));
  if (Number(input.PORT ?? 0) > 65_535) faults.push('PORT: is not a port number');
  if (faults.length > 0)
    throw new SettingsFault(`Lee Shore cannot start with these settings:\n  ${faults.join('\n  ')}`);
  return {
    port: Number(input.PORT ?? 4300),
    dataDir: resolve(input.LEESHORE_DATA_DIR ?? './var'),
    now: input.LEESHORE_NOW ? parseInstant(input.LEESHORE_NOW, 'UTC') : null,
    apiToken: input.LEESHORE_API_TOKEN ?? null,
    inboundToken: input.LEESHORE_INBOUND_TOKEN ?? null,
    smtpUrl: input.LEESHORE_SMTP_URL ?? null,
    smsUrl: input.LEESHORE_SMS_URL ?? null,
    domain: input.LEESHORE_DOMAIN ?? null,
    timezone: input.LEESHORE_TIMEZONE ?? null,
    logLevel: input.LEESHORE_LOG ?? 'info',
    mapped: input.LEESHORE_MAPPED_MB ? Number(input.LEESHORE_MAPPED_MB) * 1024 ** 2 : quarterOfMemory(),
    allowPrivate: input.LEESHORE_PRIVATE_ADDRESSES === 'yes',
    url: input.LEESHORE_URL?.replace(/\/+$/, '') ?? null,
    provider: providerOf(input),
    backups: backupsOf(input),
    demoInbox: input.LEESHORE_DEMO_INBOX ?? null,
  };
}

function providerOf(input: Environment): Settings['provider'] {
  const {
    LEESHORE_OIDC_ISSUER: issuer,
    LEESHORE_OIDC_CLIENT_ID: clientId,
    LEESHORE_OIDC_CLIENT_SECRET: clientSecret,
  } = input;
  if (!issuer || !clientId || !clientSecret) return null;
  return { issuer, clientId, clientSecret, name: input.LEESHORE_OIDC_NAME ?? new URL(issuer).hostname };
}

/** Settings of a provider that are there in part, or that would send secrets in the open. */
function providerFaults(input: Environment): string[] {
  const { LEESHORE_OIDC_ISSUER: issuer, LEESHORE_OIDC_CLIENT_ID: id, LEESHORE_OIDC_CLIENT_SECRET: secret } = input;
  if (!issuer && !id && !secret) return [];
  const faults = Object.entries({
    LEESHORE_OIDC_ISSUER: issuer,
    LEESHORE_OIDC_CLIENT_ID: id,
    LEESHORE_OIDC_CLIENT_SECRET: secret,
  })
    .filter(([, value]) => !value)
    .map(([name]) => `${name}: is missing: a provider needs its issuer, a client id and a client secret`);
  if (!input.LEESHORE_URL) faults.push('LEESHORE_URL: is missing: a provider has to know where to send people back to');
  if (issuer && URL.canParse(issuer)) {
    const { protocol, hostname } = new URL(issuer);
    if (protocol !== 'https:' && !['localhost', '127.0.0.1', '[::1]'].includes(hostname))
      faults.push('LEESHORE_OIDC_ISSUER: does not begin with https://');
  }
  return faults;
}

function backupsOf({ LEESHORE_BACKUP_DIR, LEESHORE_BACKUP_AT, LEESHORE_BACKUPS_KEPT }: Environment) {
  if (!LEESHORE_BACKUP_DIR) return null;
  const [hours, minutes] = (LEESHORE_BACKUP_AT ?? '02:30').split(':').map(Number);
  return { dir: resolve(LEESHORE_BACKUP_DIR), minute: hours * 60 + minutes, kept: Number(LEESHORE_BACKUPS_KEPT ?? 14) };
}

const ENVIRONMENT = [
  'PORT',
  'LEESHORE_DATA_DIR',
  'LEESHORE_NOW',
  'LEESHORE_API_TOKEN',
  'LEESHORE_INBOUND_TOKEN',
  'LEESHORE_SMTP_URL',
  'LEESHORE_SMS_URL',
  'LEESHORE_DOMAIN',
  'LEESHORE_TIMEZONE',
  'LEESHORE_LOG',
  'LEESHORE_MAPPED_MB',
  'LEESHORE_PRIVATE_ADDRESSES',
  'LEESHORE_URL',
  'LEESHORE_OIDC_ISSUER',
  'LEESHORE_OIDC_CLIENT_ID',
  'LEESHORE_OIDC_CLIENT_SECRET',
  'LEESHORE_OIDC_NAME',
  'LEESHORE_BACKUP_DIR',
  'LEESHORE_BACKUP_AT',
  'LEESHORE_BACKUPS_KEPT',
  'LEESHORE_DEMO_INBOX',
] as const satisfies readonly (keyof Environment)[];
