import hooks from 'eslint-plugin-react-hooks'
import tseslint from 'typescript-eslint'

export default tseslint.config(
  { ignores: ['dist', 'src/api/schema.gen.ts', 'eslint.config.js'] },
  ...tseslint.configs.strictTypeChecked,
  hooks.configs.flat.recommended,
  { languageOptions: { parserOptions: { projectService: true, tsconfigRootDir: import.meta.dirname } } },
  {
    rules: {
      '@typescript-eslint/no-non-null-assertion': 'error',
      'no-console': 'error',
      // what a browser kept may be of an older version, whatever its type says now
      '@typescript-eslint/no-unnecessary-condition': 'off',
      '@typescript-eslint/no-unnecessary-type-parameters': 'off',
      // numbers and known unions are written into text all over a bench
      '@typescript-eslint/restrict-template-expressions': ['error', { allowNumber: true }],
      '@typescript-eslint/no-confusing-void-expression': [
        'error',
        { ignoreArrowShorthand: true, ignoreVoidReturningFunctions: true },
      ],
    },
  },
)
