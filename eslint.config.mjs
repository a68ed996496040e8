import tseslint from 'typescript-eslint';

export default tseslint.config(
  { ignores: ['**/dist/', '**/node_modules/', '.angular/', '.tmp/', '.data/'] },
  ...tseslint.configs.recommended,
  {
    rules: {
      '@typescript-eslint/consistent-type-imports': 'error',
      '@typescript-eslint/no-unused-vars': ['error', { argsIgnorePattern: '^_' }],
      '@typescript-eslint/no-non-null-assertion': 'off',
      'no-console': ['error', { allow: ['error'] }],
      'prefer-const': 'error',
      eqeqeq: 'error',
      'max-lines': ['error', { max: 450, skipBlankLines: true }],
    },
  },
  { files: ['**/*.spec.ts', 'e2e/**', 'apps/*/spec/**'], rules: { '@typescript-eslint/no-explicit-any': 'off' } },
  {
    files: ['tools/**', 'bench/**', '*.mjs', '**/*.cjs'],
    rules: { 'no-console': 'off', '@typescript-eslint/no-require-imports': 'off' },
    languageOptions: { globals: { process: 'readonly', console: 'readonly' } },
  },
);
