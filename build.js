// Builds what runs: the command line and its threads for Node.js, the interface and the published site for browsers.
import { build } from 'esbuild';
import { rmSync } from 'node:fs';
import { build as buildWithVite } from 'vite';
import react from '@vitejs/plugin-react';

rmSync('dist', { recursive: true, force: true });
await build({
  entryPoints: {
    cli: 'cli/main.ts',
    'intake-worker': 'server/ingest/intake-worker.ts',
    'reader-process': 'server/decode/reader-process.ts',
    'job-thread': 'server/main/job-thread.ts',
    'library-thread': 'server/main/library-thread.ts',
    'search-thread': 'server/main/search-thread.ts',
    'span-thread': 'server/main/span-thread.ts',
    'source-thread': 'server/main/source-thread.ts',
  },
  outdir: 'dist/node',
  bundle: true,
  splitting: true,
  format: 'esm',
  platform: 'node',
  target: 'node20',
  // Bundled, since hundreds of small files take longer to open than to run; but not what is native, or finds files of
  // its own beside itself.
  external: [
    'sharp',
    '@napi-rs/blake-hash',
    'libflacjs',
    'wasm-media-encoders',
    'audio-decode',
    '@audio/*',
    // Made for Node.js as they are, with files beside them.
    'assimpjs',
    'draco3dgltf',
    'mikktspace',
    'manifold-3d',
    'playwright-core',
    'vite',
    'esbuild',
  ],
  banner: {
    js: "import { createRequire as __createRequire } from 'node:module'; const require = __createRequire(import.meta.url);",
  },
  // What is shorter is read sooner, by every thread; names stay, for traces.
  minifySyntax: true,
  minifyWhitespace: true,
  sourcemap: true,
  jsx: 'automatic',
  // Pages of the published site are rendered here: what is for development makes that several times slower.
  define: { 'process.env.NODE_ENV': '"production"' },
  logLevel: 'warning',
});
const shared = { logLevel: 'warn', configFile: false };
const limits = { emptyOutDir: true, chunkSizeWarningLimit: 1500, assetsInlineLimit: 0 };
await buildWithVite({
  ...shared,
  root: 'web',
  plugins: [react()],
  build: { ...limits, outDir: '../dist/web' },
});
// The published site's pages are written by the server: what is built here are its script, style and fonts.
await buildWithVite({
  ...shared,
  root: 'catalogue-site',
  base: './',
  build: {
    ...limits,
    outDir: '../dist/catalogue-site',
    rollupOptions: {
      input: 'catalogue-site/site.ts',
      output: {
        entryFileNames: '[name].js',
        assetFileNames: (asset) =>
          asset.names.includes('site.css') ? 'site.css' : 'assets/[name]-[hash][extname]',
      },
    },
  },
});
