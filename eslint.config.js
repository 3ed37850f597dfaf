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
  bench: ['web', 'catalogue-site'],
};
const kinds = ['picture', 'model', 'sound', 'map', 'text', 'font', 'film'];

export default tseslint.config(
  { ignores: ['dist/', 'node_modules/', '.worvel/'] },
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
    ignores: ['**/*.test.ts'],
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
  ...kinds.map((kind) => ({
    files: [`core/kinds/${kind}/**/*.ts`],
    ignores: ['**/*.test.ts'],
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
    files: ['**/*.test.ts'],
    rules: {
      '@typescript-eslint/no-unused-expressions': 'off',
      '@typescript-eslint/no-non-null-assertion': 'off',
    },
  },
);
