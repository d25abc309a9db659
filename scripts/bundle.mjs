/** Bundles what runs outside Next: the worker thread, the command line, the stand-ins, the demo. */
import { fileURLToPath } from 'node:url';
import { build } from 'esbuild';

/** Its CommonJS cannot be imported by name and it has no exports map: it is bundled from its ES modules, as Next does. */
const bundled = {
  name: 'rrule from its modules',
  setup({ onResolve }) {
    onResolve({ filter: /^rrule$/ }, () => ({
      path: fileURLToPath(new URL('../node_modules/rrule/dist/esm/index.js', import.meta.url)),
    }));
  },
};

await build({
  entryPoints: {
    background: 'src/workers/background.ts',
    files: 'src/workers/files.ts',
    helper: 'src/workers/helper.ts',
    outbox: 'src/workers/outbox.ts',
    lee: 'src/cli/lee.ts',
    mail: 'stand-ins/mail/main.ts',
    sms: 'stand-ins/sms/main.ts',
    campus: 'stand-ins/campus/main.ts',
    meeting: 'stand-ins/meeting/main.ts',
    provider: 'stand-ins/provider/main.ts',
    lti: 'stand-ins/lti/main.ts',
    'demo-data': 'demo/main.ts',
    bench: 'bench/main.ts',
  },
  outdir: 'dist',
  outExtension: { '.js': '.mjs' },
  bundle: true,
  platform: 'node',
  format: 'esm',
  target: 'node20',
  packages: 'external',
  plugins: [bundled],
  sourcemap: true,
  logLevel: 'warning',
});
