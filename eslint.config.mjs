import { createTypeScriptImportResolver } from 'eslint-import-resolver-typescript';
import { importX } from 'eslint-plugin-import-x';
import reactHooks from 'eslint-plugin-react-hooks';
import tseslint from 'typescript-eslint';

/** The layers, from the outside in. Each may import only from those after it. */
const LAYERS = ['app', 'server', 'data', 'core'];

/** Screens ask the server; of the data layer they know the shapes alone. */
const typesOnly = {
  group: ['@/data/**'],
  allowTypeImports: true,
  message: 'Screens take types from data; what they read comes from server.',
};

/** What a layer must not import, by path from the source folder or relative. */
function without(layers, more = [], rules = []) {
  const group = [...layers.flatMap((layer) => [`@/${layer}/**`, `**/../${layer}/**`]), ...more];
  const message = 'Layers: app → server → data → core; ui takes types from core.';
  return ['error', { patterns: [{ group, message }, ...rules] }];
}

const layerRules = LAYERS.map((layer, index) => ({
  files: [`src/${layer}/**/*.{ts,tsx}`],
  rules: {
    '@typescript-eslint/no-restricted-imports': without(
      [...LAYERS.slice(0, index), ...(layer === 'app' ? [] : ['ui'])],
      {
        core: ['react', 'react-dom', 'next', 'next/**', 'knex', 'better-sqlite3', 'fs', 'node:*', '@mantine/**'],
        data: ['react', 'next', 'next/**', '@mantine/**'],
        server: ['@mantine/**'],
        app: ['knex', 'better-sqlite3'],
      }[layer],
      layer === 'app' ? [typesOnly] : [],
    ),
  },
}));

export default tseslint.config(
  { ignores: ['node_modules', '.next', 'dist', 'var', 'next-env.d.ts', 'test-results', 'playwright-report'] },
  ...tseslint.configs.recommended,
  {
    plugins: { 'react-hooks': reactHooks, 'import-x': importX },
    settings: {
      ...importX.flatConfigs.typescript.settings,
      'import-x/resolver-next': [createTypeScriptImportResolver()],
    },
    rules: {
      'import-x/no-cycle': ['error', { ignoreExternal: true }],
      'react-hooks/rules-of-hooks': 'error',
      'react-hooks/exhaustive-deps': 'error',
      eqeqeq: 'error',
      'no-console': ['error', { allow: ['error', 'log'] }],
      '@typescript-eslint/consistent-type-imports': [
        'error',
        { fixStyle: 'inline-type-imports', prefer: 'type-imports', disallowTypeAnnotations: false },
      ],
    },
  },
  ...layerRules,
  {
    files: ['src/ui/**/*.{ts,tsx}'],
    rules: { '@typescript-eslint/no-restricted-imports': without(['app', 'server', 'data']) },
  },
  {
    // One clock: nothing in the application asks the machine for the time but server/clock.ts.
    files: ['src/{core,data,server,app,ui,workers}/**/*.{ts,tsx}'],
    ignores: ['src/server/clock.ts', 'src/server/testing.ts', '**/*.test.ts', '**/test-*.ts'],
    rules: {
      'no-restricted-syntax': [
        'error',
        {
          selector: "CallExpression[callee.object.name='Date'][callee.property.name='now']",
          message: 'Use the clock.',
        },
        { selector: "NewExpression[callee.name='Date'][arguments.length=0]", message: 'Use the clock.' },
      ],
    },
  },
  {
    files: ['src/core/**/*.test.ts', 'src/data/**/*.test.ts', 'src/server/**/*.test.ts'],
    rules: { '@typescript-eslint/no-restricted-imports': 'off' },
  },
);
