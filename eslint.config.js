import tseslint from 'typescript-eslint';
import vue from 'eslint-plugin-vue';

const size = {
  'max-lines': ['error', { max: 400, skipBlankLines: false }],
  'max-lines-per-function': ['error', { max: 70, skipComments: true }],
  'max-params': ['error', 5],
  complexity: ['error', 24],
};

export default tseslint.config(
  { ignores: ['**/dist/**', '**/node_modules/**', 'examples/recordings/**', '.heron/**'] },
  ...tseslint.configs.strict,
  ...vue.configs['flat/recommended'],
  {
    files: ['**/*.vue'],
    languageOptions: { parserOptions: { parser: tseslint.parser } },
    rules: {
      'vue/max-attributes-per-line': 'off',
      'vue/singleline-html-element-content-newline': 'off',
      'vue/html-self-closing': 'off',
      'vue/first-attribute-linebreak': 'off',
      'vue/html-closing-bracket-newline': 'off',
      'vue/html-indent': 'off',
      'vue/multiline-html-element-content-newline': 'off',
    },
  },
  {
    files: ['packages/*/src/**/*.{ts,vue}'],
    rules: {
      ...size,
      'no-undef': 'off',
      '@typescript-eslint/no-non-null-assertion': 'off',
      '@typescript-eslint/no-dynamic-delete': 'off',
      '@typescript-eslint/no-unused-vars': ['error', { argsIgnorePattern: '^_', varsIgnorePattern: '^_' }],
      '@typescript-eslint/consistent-type-imports': 'error',
      'no-restricted-exports': ['error', { restrictDefaultExports: { direct: true } }],
      eqeqeq: 'error',
      // What comes from outside may be called __proto__ or constructor.
      'no-restricted-syntax': [
        'error',
        {
          selector:
            "TSTypeReference[typeName.name='Record'] > TSTypeParameterInstantiation > TSStringKeyword:first-child",
          message: 'Keys that come from outside belong in a Map: an object has members of its own.',
        },
        {
          selector: 'TSIndexSignature',
          message: 'Keys that come from outside belong in a Map: an object has members of its own.',
        },
      ],
    },
  },
  {
    files: ['packages/core/src/**/*.ts'],
    rules: {
      'no-restricted-imports': ['error', { patterns: ['node:*', 'vue', 'dexie', 'd3-*'] }],
      'no-restricted-globals': [
        'error',
        'window',
        'document',
        'process',
        'Buffer',
        'fetch',
        'setTimeout',
        'performance',
        'console',
      ],
    },
  },
  {
    files: ['packages/recorder-node/src/**/*.ts'],
    rules: {
      '@typescript-eslint/no-restricted-imports': [
        'error',
        { patterns: [{ group: ['@brisk-heron/*'], allowTypeImports: true }] },
      ],
    },
  },
  { files: ['**/*.vue', 'packages/web/vite.config.ts'], rules: { 'no-restricted-exports': 'off' } },
  // Programs that are recorded use what they make only as far as it must not be optimised away.
  {
    files: ['test/truth/**', 'packages/*/bench/**'],
    rules: { '@typescript-eslint/no-unused-vars': 'off', '@typescript-eslint/no-extraneous-class': 'off' },
  },
  { files: ['**/test/**', 'scripts/**', 'examples/**'], rules: { '@typescript-eslint/no-non-null-assertion': 'off' } },
);
