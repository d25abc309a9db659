import reactHooks from 'eslint-plugin-react-hooks';
import tseslint from 'typescript-eslint';

/** The layers, from the outside in. Each may import only from those after it. */
const LAYERS = ['app', 'server', 'data', 'core'];

/** What a layer must not import, by path from the source folder or relative. */
function without(layers, more = []) {
  const group = [...layers.flatMap((layer) => [`@/${layer}/**`, `**/../${layer}/**`]), ...more];
  return ['error', { patterns: [{ group, message: 'Layers: app → server → data → core; ui takes types from core.' }] }];
}

const layerRules = LAYERS.map((layer, index) => ({
  files: [`src/${layer}/**/*.{ts,tsx}`],
  rules: {
    'no-restricted-imports': without(
      [...LAYERS.slice(0, index), ...(layer === 'app' ? [] : ['ui'])],
      {
        core: ['react', 'react-dom', 'next', 'next/**', 'knex', 'better-sqlite3', 'fs', 'node:*', '@mantine/**'],
        data: ['react', 'next', 'next/**', '@mantine/**'],
        server: ['@mantine/**'],
        app: ['knex', 'better-sqlite3'],
      }[layer],
    ),
  },
}));

export default tseslint.config(
  { ignores: ['node_modules', '.next', 'dist', 'var', 'next-env.d.ts', 'test-results', 'playwright-report'] },
  ...tseslint.configs.recommended,
  {
    plugins: { 'react-hooks': reactHooks },
    rules: {
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
    rules: { 'no-restricted-imports': without(['app', 'server', 'data']) },
  },
  {
    // One clock: nothing in the application asks the machine for the time but server/clock.ts.
    files: ['src/{core,data,server,app,ui,workers}/**/*.{ts,tsx}'],
    ignores: ['src/server/clock.ts', 'src/server/testing.ts', '**/*.test.ts'],
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
    rules: { 'no-restricted-imports': 'off' },
  },
);
