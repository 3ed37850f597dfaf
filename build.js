// Builds what runs: the command line and its threads for Node.js, the interface and the published site for browsers.
import { build } from 'esbuild';
import { rmSync } from 'node:fs';
import { build as buildWithVite } from 'vite';
import react from '@vitejs/plugin-react';

rmSync('dist', { recursive: true, force: true });
await build({
  entryPoints: {
    cli: 'cli/main.ts',
    'intake-worker': 'server/intake/intake-worker.ts',
    'reader-worker': 'server/readers/reader-worker.ts',
    'job-thread': 'server/work/job-thread.ts',
  },
  outdir: 'dist/node',
  bundle: true,
  splitting: true,
  format: 'esm',
  platform: 'node',
  target: 'node20',
  packages: 'external',
  sourcemap: true,
  jsx: 'automatic',
  logLevel: 'warning',
});
if (!process.argv.includes('--node-only')) {
  for (const root of ['web', 'catalogue-site']) {
    await buildWithVite({
      root,
      base: root === 'web' ? '/' : './',
      logLevel: 'warn',
      configFile: false,
      plugins: root === 'web' ? [react()] : [],
      build: { outDir: `../dist/${root}`, emptyOutDir: true, chunkSizeWarningLimit: 1500, assetsInlineLimit: 0 },
    });
  }
}
