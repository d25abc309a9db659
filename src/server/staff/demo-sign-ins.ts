/** The demo's sign-ins, shown on its sign-in page: only where the demo made them. */
import { readFile } from 'node:fs/promises';
import { join } from 'node:path';
import type { Settings } from '../settings';

export interface DemoSignIns {
  password: string;
  accounts: { email: string; says: string }[];
}

export const DEMO_FILE = 'demo.json';

/** Null everywhere but in the demo, whose starter sets the inbox and whose data folder has the file. */
export async function demoSignIns(settings: Settings): Promise<DemoSignIns | null> {
  if (!settings.demoInbox) return null;
  try {
    return JSON.parse(await readFile(join(settings.dataDir, DEMO_FILE), 'utf8'));
  } catch {
    return null;
  }
}
