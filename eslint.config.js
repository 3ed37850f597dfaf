import reactHooks from 'eslint-plugin-react-hooks';
import tseslint from 'typescript-eslint';

/** Imports point one way: who stands in a room may not reach into these others. */
const closed = {
  contract: ['core', 'server', 'web', 'cli', 'demo', 'bench', 'catalogue-site'],
  core: ['server', 'web', 'cli', 'demo', 'bench', 'catalogue-site'],
  server: ['web', 'cli', 'demo', 'bench', 'catalogue-site'],
  web: ['server', 'cli', 'demo', 'bench', 'catalogue-site'],
  'catalogue-site': ['server', 'cli', 'demo', 'bench'],
  demo: ['server', 'web', 'cli', 'bench', 'catalogue-site'],
  cli: ['web', 'catalogue-site'],
  // It measures the engine of the viewer, too.
  bench: ['catalogue-site'],
};
/**
 * The rooms of server and web from the lowest to the highest, in the order of the data's way: a room uses what stands below it,
 * and what stands above hands it what it needs.
 */
const rooms = {
  server: [
    ...['platform', 'store', 'jobs', 'people', 'acquire', 'ingest', 'decode', 'library', 'changes', 'hauls'],
    ...['publishing', 'maintenance', 'main'],
  ],
  web: [
    ...[
      'ui',
      'lists',
      'viewer',
      'jobs',
      'acquire',
      'people',
      'library',
      'changes',
      'hauls',
      'publishing',
      'maintenance',
      'app',
    ],
  ],
};
const kinds = ['picture', 'model', 'sound', 'map', 'text', 'font', 'film'];

export default tseslint.config(
  { ignores: ['dist/', 'node_modules/', '.worvel/', 'core/kernels/assembly/'] },
  ...tseslint.configs.recommendedTypeChecked.map((config) => ({ ...config, files: ['**/*.ts', '**/*.tsx'] })),
  {
    files: ['**/*.ts', '**/*.tsx'],
    languageOptions: { parserOptions: { projectService: true } },
    plugins: { 'react-hooks': reactHooks },
    rules: {
      '@typescript-eslint/no-non-null-assertion': 'error',
      '@typescript-eslint/no-unused-vars': ['error', { argsIgnorePattern: '^_', varsIgnorePattern: '^_' }],
      '@typescript-eslint/switch-exhaustiveness-check': [
        'error',
        { considerDefaultExhaustiveForUnions: true },
      ],
      '@typescript-eslint/restrict-template-expressions': ['error', { allowNumber: true }],
      // Readers answer with a promise, whether they have to wait for anything or not.
      '@typescript-eslint/require-await': 'off',
      'no-empty': ['error', { allowEmptyCatch: false }],
      'react-hooks/rules-of-hooks': 'error',
      'react-hooks/exhaustive-deps': 'error',
    },
  },
  ...Object.entries(closed).map(([room, others]) => ({
    files: [`${room}/**/*.ts`, `${room}/**/*.tsx`],
    ignores: ['**/*.test.ts', '**/*.test.tsx'],
    rules: {
      'no-restricted-imports': [
        'error',
        {
          patterns: [
            { regex: `^(\\.\\./)+(${others.join('|')})/`, message: `${room}/ may not import from there.` },
            ...(room === 'core' || room === 'contract' || room === 'web' || room === 'catalogue-site'
              ? [{ regex: '^node:', message: `${room}/ knows nothing of Node.js.` }]
              : []),
          ],
        },
      ],
    },
  })),
  ...Object.entries(rooms).flatMap(([side, names]) =>
    names.map((room, place) => ({
      files: [`${side}/${room}/**/*.ts`, `${side}/${room}/**/*.tsx`],
      ignores: ['**/*.test.ts', '**/*.test.tsx'],
      rules: {
        'no-restricted-imports': [
          'error',
          {
            patterns: [
              {
                regex: `^(\\.\\./)+(${closed[side].join('|')})/`,
                message: `${side}/ may not import from there.`,
              },
              ...(place < names.length - 1
                ? [
                    {
                      // One level up from a room's own folder stand the rooms; deeper in, one level more.
                      regex: `^(\\.\\./)+(${names.slice(place + 1).join('|')})/`,
                      message: `${side}/${room} uses what stands below it: that one stands above.`,
                    },
                  ]
                : []),
              ...(side === 'web' ? [{ regex: '^node:', message: 'web/ knows nothing of Node.js.' }] : []),
            ],
          },
        ],
      },
    })),
  ),
  ...kinds.map((kind) => ({
    files: [`core/kinds/${kind}/**/*.ts`],
    ignores: ['**/*.test.ts', '**/*.test.tsx'],
    rules: {
      'no-restricted-imports': [
        'error',
        {
          patterns: [
            { regex: `^(\\.\\./)+(${closed.core.join('|')})/|^node:`, message: 'core/ stands by itself.' },
            {
              regex: `^(\\.\\./)+(${kinds.filter((other) => other !== kind).join('|')})/`,
              message: 'A kind never imports another.',
            },
          ],
        },
      ],
    },
  })),
  {
    files: ['**/*.test.ts', '**/*.test.tsx'],
    rules: {
      '@typescript-eslint/no-unused-expressions': 'off',
      '@typescript-eslint/no-non-null-assertion': 'off',
    },
  },
);
