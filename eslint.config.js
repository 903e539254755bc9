import js from '@eslint/js'
import hooks from 'eslint-plugin-react-hooks'
import tseslint from 'typescript-eslint'

/** Node and Chromium differ by an ulp in these, and clocks and locales differ by machine: the core has its own. */
const inexact = [
  'exp',
  'expm1',
  'log',
  'log2',
  'log10',
  'log1p',
  'pow',
  'sin',
  'cos',
  'tan',
  'asin',
  'acos',
  'atan',
  'atan2',
  'sinh',
  'cosh',
  'tanh',
  'cbrt',
  'hypot',
  'random',
]

export default tseslint.config(
  { ignores: ['dist', '.cache', 'node_modules', 'test-results', 'playwright-report'] },
  js.configs.recommended,
  ...tseslint.configs.strict,
  {
    rules: {
      '@typescript-eslint/no-non-null-assertion': 'off',
      '@typescript-eslint/no-invalid-void-type': 'off',
      '@typescript-eslint/no-dynamic-delete': 'off',
      '@typescript-eslint/no-unused-vars': ['error', { argsIgnorePattern: '^_' }],
      'no-console': 'error',
      eqeqeq: 'error',
      'max-depth': ['error', 4],
      'no-nested-ternary': 'error',
      // What is longer in ways than this cannot be held in mind; a component's conditions are its layout, one beside
      // the other.
      complexity: ['error', 25],
      // Prettier breaks code; comments are broken by whoever writes them.
      'max-len': ['error', { code: 2000, comments: 120, ignoreUrls: true }],
    },
  },
  { files: ['src/app/**/*.tsx'], rules: { complexity: ['error', 50] } },
  // Oracles are plain loops on purpose.
  { files: ['tests/**'], rules: { complexity: 'off' } },
  {
    files: ['src/core/**/*.ts'],
    rules: {
      'no-restricted-properties': [
        'error',
        ...inexact.map((property) => ({
          object: 'Math',
          property,
          message: 'not the same in every engine; see core/numbers',
        })),
      ],
      'no-restricted-globals': ['error', 'Date', 'Intl', 'performance', 'setTimeout', 'setInterval', 'crypto'],
      'no-restricted-syntax': [
        'error',
        {
          selector:
            'MemberExpression[property.name=/^(localeCompare|toLocaleString|toLocaleLowerCase|toLocaleUpperCase)$/]',
          message: 'differs by locale',
        },
        { selector: "BinaryExpression[operator='**'][left.type!='Literal']", message: 'not the same in every engine' },
      ],
    },
  },
  { files: ['src/app/**/*.{ts,tsx}'], plugins: { 'react-hooks': hooks }, rules: hooks.configs.recommended.rules },
  {
    files: ['scripts/**/*.mjs', 'bench/**/*.ts', 'src/cli/**/*.ts'],
    languageOptions: {
      globals: {
        process: 'readonly',
        console: 'readonly',
        fetch: 'readonly',
        setTimeout: 'readonly',
        URL: 'readonly',
        AbortController: 'readonly',
        TextDecoder: 'readonly',
        setInterval: 'readonly',
        clearInterval: 'readonly',
        performance: 'readonly',
      },
    },
    rules: { 'no-console': 'off' },
  },
  {
    files: ['scripts/**/*.cjs'],
    languageOptions: {
      sourceType: 'commonjs',
      globals: { require: 'readonly', exports: 'readonly', process: 'readonly' },
    },
    rules: { '@typescript-eslint/no-require-imports': 'off' },
  },
  { files: ['.dependency-cruiser.cjs'], languageOptions: { globals: { module: 'readonly' } } },
)
