import { existsSync, readFileSync, readdirSync } from 'node:fs';
import { describe, expect, it } from 'vitest';
import { FACTORS } from '@/core/drift/model';
import { FILE_KINDS } from '@/core/imports/kinds';
import { IMPORTERS } from '@/data/imports/importers';
import { MIGRATIONS } from '@/data/migrations';
import { LEARNER_ACTIONS } from './app/_people/learner-actions';

const page = readFileSync('docs/architecture.md', 'utf8');

describe('the page on the architecture', () => {
  it('names only files and folders that are there', () => {
    const named = [...page.matchAll(/`((?:src|e2e|docs)\/[^`\s]+(?: [^`\s]+)*)`/g)].map((match) => match[1]);
    expect(named.length).toBeGreaterThan(25);
    expect(named.filter((path) => !existsSync(path))).toEqual([]);
  });

  it('names every room there is', () => {
    const rooms = new Set(
      ['core', 'data', 'server'].flatMap((layer) =>
        readdirSync(`src/${layer}`, { withFileTypes: true })
          .filter((entry) => entry.isDirectory() && entry.name !== 'migrations')
          .map((entry) => entry.name),
      ),
    );
    expect([...rooms].filter((room) => !new RegExp(`[\`/]${room}\``).test(page))).toEqual([]);
  });

  it('says truly that a line is enough: what is declared has all that belongs to it', () => {
    expect(new Set(FACTORS.flatMap(({ words }) => Object.keys(words))).size).toBe(
      FACTORS.flatMap(({ words }) => Object.keys(words)).length,
    );
    expect(Object.keys(IMPORTERS).sort()).toEqual(Object.keys(FILE_KINDS).sort());
    expect(new Set(LEARNER_ACTIONS.map(({ key }) => key)).size).toBe(LEARNER_ACTIONS.length);
    const files = readdirSync('src/data/migrations').filter((name) => /^\d{4}-/.test(name));
    expect(MIGRATIONS.map(({ name }) => `${name}.ts`)).toEqual(files.sort());
  });
});
