import js from '@eslint/js';
import prettier from 'eslint-config-prettier';
import vue from 'eslint-plugin-vue';
import globals from 'globals';
import ts from 'typescript-eslint';

export default ts.config(
  { ignores: ['dist', 'src/api/schema.d.ts', 'src/components.d.ts'] },
  js.configs.recommended,
  ...ts.configs.strict,
  ...vue.configs['flat/recommended'],
  {
    files: ['**/*.{ts,vue}'],
    languageOptions: { globals: globals.browser, parserOptions: { parser: ts.parser } },
    rules: {
      // A variable is called after what it holds.
      'id-denylist': ['error', 'one', 'each', 'thing'],
      'no-restricted-globals': [
        'error',
        { name: 'parseFloat', message: 'Typed numbers are parsed in support/quantity.' },
      ],
      'vue/multi-word-component-names': 'off',
      'vue/no-undef-components': ['error', { ignorePatterns: ['^B[A-Z]', 'RouterLink', 'RouterView'] }],
      complexity: ['error', 12],
    },
  },
  prettier,
);
