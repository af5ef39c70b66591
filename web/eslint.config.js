import eslint from '@eslint/js'
import prettier from 'eslint-config-prettier'
import vue from 'eslint-plugin-vue'
import typescript from 'typescript-eslint'

export default typescript.config(
  { ignores: ['dist', 'src/api/schema.d.ts'] },
  eslint.configs.recommended,
  ...typescript.configs.recommended,
  ...vue.configs['flat/recommended'],
  {
    files: ['**/*.vue'],
    languageOptions: { parserOptions: { parser: typescript.parser } },
  },
  {
    rules: {
      '@typescript-eslint/no-unused-vars': ['error', { argsIgnorePattern: '^_' }],
      '@typescript-eslint/no-explicit-any': 'error',
      'no-undef': 'off', // the compiler knows better
      'vue/multi-word-component-names': 'off',
      'vue/require-default-prop': 'off', // an optional prop without a default is undefined, and typed so
      'no-restricted-syntax': [
        'error',
        {
          selector: "CallExpression[callee.property.name='includes'][callee.object.property.name='message']",
          message: 'Ask for the code of an error, not for words of its message.',
        },
        {
          selector: 'TSAsExpression > TSAsExpression > TSUnknownKeyword',
          message: 'Give it its type where it comes from instead.',
        },
      ],
    },
  },
  prettier,
)
