import { readFileSync, readdirSync } from 'node:fs';
import { join } from 'node:path';
import { expect, it } from 'vitest';

const STYLES = 'node_modules/@mantine/core/styles';

it('every component that is used has its styles', () => {
  const sheet = readFileSync('src/app/mantine.css', 'utf8');
  const has = new Set([...sheet.matchAll(/styles\/(\w+)\.layer\.css/g)].map((match) => match[1]));
  const there = new Set(readdirSync(STYLES).map((name) => name.replace(/(\.layer)?\.css$/, '')));
  const files = readdirSync('src', { recursive: true, withFileTypes: true }).filter(({ name }) =>
    name.endsWith('.tsx'),
  );
  const missing = new Set<string>();
  for (const file of files) {
    const text = readFileSync(join(file.parentPath, file.name), 'utf8');
    for (const [, names] of text.matchAll(/(?:import|export) \{([^}]*)\} from '@mantine\/core'/g))
      for (const name of names.split(',').map((one) => one.trim().split(' ')[0]))
        // Parts of a component, such as the body of a table, stand with it.
        if (there.has(name) && !has.has(name) && !text.includes(`styles/${name}.layer.css`))
          missing.add(`${name}: ${file.name}`);
  }
  expect([...missing]).toEqual([]);
});
