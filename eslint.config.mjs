import tseslint from 'typescript-eslint';
import hooks from 'eslint-plugin-react-hooks';
import regexp from 'eslint-plugin-regexp';

export default tseslint.config(
  {
    ignores: ['src/env.d.ts', 'dist', '.astro', '.laager', 'node_modules', '**/*.astro'],
  },
  ...tseslint.configs.strict,
  {
    plugins: { 'react-hooks': hooks, regexp },
    rules: {
      ...hooks.configs.recommended.rules,
      '@typescript-eslint/no-explicit-any': 'error',
      '@typescript-eslint/consistent-type-imports': 'error',
      '@typescript-eslint/no-non-null-assertion': 'error',
      '@typescript-eslint/no-unused-vars': [
        'error',
        { ignoreRestSiblings: true, argsIgnorePattern: '^_', varsIgnorePattern: '^_' },
      ],
      '@typescript-eslint/no-extraneous-class': 'off',
      eqeqeq: 'error',
      'no-console': 'error',
    },
  },
  {
    // One line of input must not stop a process.
    files: ['src/**'],
    rules: {
      'regexp/no-super-linear-backtracking': ['error', { report: 'potential' }],
      'regexp/no-super-linear-move': ['error', { report: 'potential' }],
    },
  },
  { files: ['scripts/**', 'bench/**', 'src/demo/**'], rules: { 'no-console': 'off' } },
);
