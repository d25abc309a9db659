import { existsSync, readFileSync, readdirSync } from 'node:fs';
import { basename, join } from 'node:path';
import ts from 'typescript';
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

/** Every file of some folders. */
const filesIn = (folders: readonly string[], pattern: RegExp) =>
  folders.flatMap((folder) =>
    readdirSync(folder, { recursive: true, withFileTypes: true })
      .filter((entry) => entry.isFile() && pattern.test(entry.name))
      .map((entry) => join(entry.parentPath, entry.name)),
  );

describe('the glossary', () => {
  const glossary = readFileSync('docs/glossary.md', 'utf8');
  const rows = [...glossary.matchAll(/^\| (.+?) +\| .+? \| (.+?) +\| (.*?) *\|$/gm)]
    .map(([, word, where, not]) => ({ word: word.trim(), where, not: not.split(', ').filter(Boolean) }))
    .filter(({ where }) => where.includes('`'));

  it('says of each word where it lives', () => {
    expect(rows.length).toBeGreaterThan(35);
    const paths = rows.flatMap(({ where }) => [...where.matchAll(/`([^`]+)`/g)].map((match) => match[1]));
    expect(paths.filter((path) => !existsSync(path))).toEqual([]);
    expect(new Set(rows.map(({ word }) => word)).size).toBe(rows.length);
  });

  it('has no second word for a thing among the exported names', () => {
    const others = new Set(
      rows.flatMap(({ not }) => not).flatMap((word) => (word.split(' ').length > 1 ? [] : [word])),
    );
    expect(others.has('headway')).toBe(true);
    const found: string[] = [];
    for (const file of filesIn(['src'], /(?<!\.test|\.d)\.tsx?$/)) {
      if (file.includes('migrations') || file.endsWith('sample-answers.ts')) continue;
      const source = ts.createSourceFile(file, readFileSync(file, 'utf8'), ts.ScriptTarget.Latest);
      for (const name of exportedNames(source)) {
        const words = name.split(/_|(?<=[a-z\d])(?=[A-Z])/).map((word) => word.toLowerCase());
        if (words.some((word) => others.has(word))) found.push(`${file}: ${name}`);
      }
    }
    expect(found).toEqual([]);
  });
});

/** The names that a file exports. */
function exportedNames(source: ts.SourceFile): string[] {
  return source.statements.flatMap((statement) => {
    if (!ts.canHaveModifiers(statement)) return [];
    if (!ts.getModifiers(statement)?.some(({ kind }) => kind === ts.SyntaxKind.ExportKeyword)) return [];
    if (ts.isVariableStatement(statement))
      return statement.declarationList.declarations.map(({ name }) => name.getText(source));
    const { name } = statement as ts.DeclarationStatement;
    return name && ts.isIdentifier(name) ? [name.text] : [];
  });
}

describe('documentation and docstrings', () => {
  it('name only files that are there', () => {
    const every = [...filesIn(['src', 'e2e', 'bench', 'demo', 'stand-ins', 'scripts'], /./), ...filesIn(['docs'], /./)];
    const names = new Set(every.map((file) => basename(file)));
    const gone: string[] = [];
    for (const file of [
      ...filesIn(['src', 'bench', 'demo', 'e2e'], /\.tsx?$/),
      ...filesIn(['docs'], /\.md$/),
      'README.md',
    ]) {
      if (file.includes('migrations')) continue;
      const text = readFileSync(file, 'utf8');
      const said = file.endsWith('.md') ? text : [...text.matchAll(/\/\*\*[\s\S]*?\*\/|\/\/ .*/g)].join('\n');
      for (const [, path] of said.matchAll(
        /(?:^|[\s`(])((?:src|core|data|server|app|ui|docs|e2e|bench)\/[\w./-]+)(?![\w*[(])/gm,
      )) {
        const whole = [path, `src/${path}`].flatMap((start) => [start, `${start}.ts`, `${start}.tsx`]);
        if (!whole.some((one) => existsSync(one.replace(/\.$/, '')))) gone.push(`${file}: ${path}`);
      }
      for (const [, name] of said.matchAll(/`([\w-]+\.(?:tsx?|mjs|css))`/g))
        if (!names.has(name)) gone.push(`${file}: ${name}`);
    }
    expect(gone).toEqual([]);
  });
});
