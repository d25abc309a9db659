/** Bundles what runs outside Next: the worker thread, the command line, the stand-ins, the demo. */
import { build } from 'esbuild';

await build({
  entryPoints: {
    background: 'src/workers/background.ts',
    lee: 'src/cli/lee.ts',
    mail: 'stand-ins/mail/main.ts',
    sms: 'stand-ins/sms/main.ts',
    campus: 'stand-ins/campus/main.ts',
    meeting: 'stand-ins/meeting/main.ts',
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
  sourcemap: true,
  logLevel: 'warning',
});
