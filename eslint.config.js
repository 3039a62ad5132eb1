import prettier from 'eslint-config-prettier'
import vue from 'eslint-plugin-vue'
import tseslint from 'typescript-eslint'
import vueParser from 'vue-eslint-parser'

/** Which rooms a room may import from. `core` is pure: no rooms, no Node, no Vue; contracts it may have. */
const mayImport = {
  core: [],
  shared: ['core'],
  db: ['core', 'shared', 'pacing'],
  security: ['core'],
  pacing: [],
  engine: ['core', 'shared', 'db', 'security', 'pacing'],
  server: ['core', 'shared', 'db', 'security', 'pacing'],
  app: ['core', 'shared'],
  standins: ['core', 'security'],
  demo: ['core', 'shared', 'db', 'security'],
}
const rooms = Object.keys(mayImport)

const importRule = (room) => {
  const closed = rooms.filter((other) => other !== room && !mayImport[room].includes(other))
  const patterns = [
    {
      regex: `^(#(${closed.join('|')})/|(\\.\\./)+(${closed.join('|')})/)`,
      message: `${room}/ may import from ${mayImport[room].join(', ') || 'nothing'} only.`,
    },
    {
      regex: `^(\\.\\./)+(${rooms.filter((other) => other !== room).join('|')})/`,
      message: 'Other rooms are imported by their name, as in #core/….',
    },
  ]
  if (room === 'core')
    patterns.push({
      regex: '^(?!\\.|(zod|papaparse|js-yaml|json-p3|lossless-json|mathjs/number|croner|saxes|@scure/base)$)',
      message: 'core/ is pure: it imports nothing but itself, contracts and parsers.',
    })
  if (room === 'app') patterns.push({ regex: '^node:', message: 'app/ runs in the browser.' })
  return { files: [`${room}/**/*.{ts,vue}`], rules: { 'no-restricted-imports': ['error', { patterns }] } }
}

export default tseslint.config(
  { ignores: ['.nuxt/**', '.output/**', '.state/**', 'node_modules/**'] },
  ...tseslint.configs.recommended,
  ...vue.configs['flat/recommended'],
  {
    files: ['**/*.vue'],
    languageOptions: { parser: vueParser, parserOptions: { parser: tseslint.parser, sourceType: 'module' } },
    rules: { 'vue/multi-word-component-names': 'off', 'vue/require-default-prop': 'off' },
  },
  {
    files: [
      'core/**/*.ts',
      'shared/**/*.ts',
      'db/**/*.ts',
      'security/**/*.ts',
      'pacing/**/*.ts',
      'engine/**/*.ts',
      'standins/**/*.ts',
      'demo/**/*.ts',
      'tests/**/*.ts',
    ],
    ignores: ['tests/nuxt/**'],
    languageOptions: { parserOptions: { project: './tsconfig.node.json' } },
    rules: {
      '@typescript-eslint/no-floating-promises': 'error',
      '@typescript-eslint/no-misused-promises': ['error', { checksVoidReturn: false }],
      '@typescript-eslint/await-thenable': 'error',
      '@typescript-eslint/switch-exhaustiveness-check': ['error', { considerDefaultExhaustiveForUnions: true }],
    },
  },
  {
    rules: {
      '@typescript-eslint/no-explicit-any': 'error',
      '@typescript-eslint/no-non-null-assertion': 'off',
      '@typescript-eslint/consistent-type-imports': 'error',
      '@typescript-eslint/no-unused-vars': ['error', { argsIgnorePattern: '^_', varsIgnorePattern: '^_' }],
      eqeqeq: ['error', 'always', { null: 'ignore' }],
      'no-eval': 'error',
      'max-lines': ['error', { max: 380, skipBlankLines: true, skipComments: true }],
      complexity: ['error', 16],
    },
  },
  ...rooms.map(importRule),
  prettier,
)
