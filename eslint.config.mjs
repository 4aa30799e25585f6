import hooks from 'eslint-plugin-react-hooks';
import tseslint from 'typescript-eslint';

const promised = {
  '@typescript-eslint/no-floating-promises': 'error',
  '@typescript-eslint/no-misused-promises': ['error', { checksVoidReturn: { attributes: false } }],
  '@typescript-eslint/await-thenable': 'error',
  '@typescript-eslint/only-throw-error': 'error',
  '@typescript-eslint/no-unnecessary-type-assertion': 'error',
  '@typescript-eslint/switch-exhaustiveness-check': ['error', { considerDefaultExhaustiveForUnions: true }],
};

/** What core has none of: a clock, a disk, a network, a page. */
const worldly = ['process', 'Buffer', 'console', 'performance', 'fetch', 'setTimeout', 'setInterval', 'queueMicrotask'];

export default tseslint.config(
  { ignores: ['**/node_modules', '**/dist', '**/build', '.shale', 'test-results'] },
  ...tseslint.configs.recommended,
  {
    files: ['**/*.{ts,tsx,mjs}'],
    rules: {
      '@typescript-eslint/no-unused-vars': [
        'error',
        { argsIgnorePattern: '^_', varsIgnorePattern: '^_', caughtErrors: 'none' },
      ],
      '@typescript-eslint/consistent-type-imports': 'error',
      'max-lines': ['error', { max: 420, skipBlankLines: false }],
      // A switch over kinds counts once: its cases are a table.
      complexity: ['error', { max: 25, variant: 'modified' }],
      'preserve-caught-error': 'error',
      eqeqeq: ['error', 'always', { null: 'ignore' }],
      'no-console': 'error',
    },
  },
  {
    files: ['**/*.{ts,tsx}'],
    ignores: ['**/*.d.{ts,mts}'],
    languageOptions: { parserOptions: { projectService: true, tsconfigRootDir: import.meta.dirname } },
    rules: promised,
  },
  {
    files: ['core/**/*.ts'],
    ignores: ['**/*.test.ts'],
    rules: {
      'no-restricted-globals': ['error', ...worldly],
      'no-restricted-properties': ['error', { object: 'Date', property: 'now' }],
    },
  },
  // A list of what core has for others.
  { files: ['core/index.ts'], rules: { 'max-lines': 'off' } },
  { files: ['**/*.cjs'], rules: { '@typescript-eslint/no-require-imports': 'off' } },
  { files: ['web/**/*.{ts,tsx}'], ...hooks.configs.flat['recommended-latest'] },
  {
    files: ['tools/**', 'cli/**', 'demo/**', 'server/main.ts', 'server/backupMain.ts', 'e2e/**', 'prove/**'],
    rules: { 'no-console': 'off' },
  },
);
