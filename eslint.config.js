import vue from 'eslint-plugin-vue'
import ts from 'typescript-eslint'

/** The arrows between folders: who may not import whom, and why. */
const arrow = (files, group, message) => ({
  files,
  // Tests may take what they need.
  ignores: ['**/*.test.ts'],
  rules: { '@typescript-eslint/no-restricted-imports': ['error', { patterns: [{ regex: group, message }] }] },
})

/** May be longer than a line. */
const TEXTS = { ignoreStrings: true, ignoreTemplateLiterals: true, ignoreRegExpLiterals: true }

export default ts.config(
  { ignores: ['node_modules', '.nuxt', '.output', '.data', 'test-results'] },
  ...ts.configs.recommended,
  ...ts.configs.stylistic,
  ...vue.configs['flat/recommended'],
  { files: ['**/*.vue'], languageOptions: { parserOptions: { parser: ts.parser } } },
  {
    rules: {
      'eqeqeq': 'error',
      '@typescript-eslint/no-empty-function': 'off',
      'no-console': ['error', { allow: ['warn', 'error'] }],
      'prefer-const': 'error',
      'max-len': [
        'error',
        { code: 120, ignoreStrings: true, ignoreTemplateLiterals: true, ignoreRegExpLiterals: true },
      ],
      'max-lines-per-function': ['error', { max: 80, skipBlankLines: true, skipComments: true }],
      'complexity': ['error', 24],
      '@typescript-eslint/consistent-type-definitions': ['error', 'type'],
      '@typescript-eslint/consistent-type-imports': 'error',
      '@typescript-eslint/no-non-null-assertion': 'off',
      '@typescript-eslint/no-unused-vars': [
        'error',
        { argsIgnorePattern: '^_', varsIgnorePattern: '^_', ignoreRestSiblings: true },
      ],
      'vue/attributes-order': 'off',
      'vue/html-indent': 'off',
      'vue/multiline-html-element-content-newline': 'off',
      'vue/max-attributes-per-line': 'off',
      'vue/multi-word-component-names': 'off',
      'vue/singleline-html-element-content-newline': 'off',
      'vue/html-self-closing': ['error', { html: { void: 'always' } }],
      'vue/html-closing-bracket-newline': 'off',
      'vue/first-attribute-linebreak': 'off',
      'vue/require-default-prop': 'off',
    },
  },
  // Words and attributes that a template shows are texts, as strings are.
  {
    files: ['**/*.vue'],
    rules: {
      'max-len': 'off',
      'vue/max-len': ['error', { code: 120, template: 120, ...TEXTS, ignoreHTMLAttributeValues: true }],
    },
  },
  // What is set up once is a list of functions, each of them short: stores, composables, workers, suites of tests.
  {
    files: ['app/{editor,features,shell}/**/*.ts', '**/*.test.ts', 'tests/**', 'bench/**', 'demo/**'],
    ignores: ['app/**/*-tool.ts', 'app/editor/tools/drags/{grip,mark-grip,move,pivot,size,turn}.ts'],
    rules: { 'max-lines-per-function': 'off' },
  },
  { files: ['tests/**', 'scripts/**'], rules: { complexity: 'off' } },
  // The page knows the types of the routes, and with them of this package, which has none of its own.
  {
    files: ['server/services/new-part.ts', 'server/services/draco.ts'],
    rules: { '@typescript-eslint/triple-slash-reference': 'off' },
  },
  { files: ['scripts/**', 'bench/**', 'examples/**'], rules: { 'no-console': 'off' } },
  // An interface of somebody else's can only be added to as an interface.
  {
    files: ['app/shell/automation.ts', 'core/units/expression.ts'],
    rules: { '@typescript-eslint/consistent-type-definitions': 'off' },
  },
  {
    files: ['core/**/*.ts'],
    ignores: ['core/**/*.test.ts'],
    rules: {
      'no-restricted-globals': ['error', 'window', 'document', 'Date', 'performance', 'process', 'fetch'],
      'no-restricted-properties': [
        'error',
        { object: 'Math', property: 'random', message: 'core takes its random numbers from a seed' },
      ],
    },
  },
  arrow(
    ['core/**/*.ts'],
    '^(~|#|node:|vue|pinia)|/(app|server|demo)/',
    'core imports nothing from the app, the server or Node.js',
  ),
  {
    files: ['**/*.ts', '**/*.vue'],
    ignores: ['core/level/level.ts', 'core/level/change.ts'],
    rules: {
      'no-restricted-syntax': [
        'error',
        { selector: 'ImportSpecifier[imported.name="writerOf"]', message: 'a level is written by applyChange alone' },
      ],
    },
  },
  arrow(
    ['app/stage/**/*.ts', 'app/editor/tools/**/*.ts', 'app/features/**/*-tool.ts'],
    String.raw`\.vue$|^(vue|pinia|vuetify)`,
    'the stage and the tools know no Vue',
  ),
  arrow(
    ['app/**/*.vue'],
    '^three($|/)|/core/edit/handles/',
    'components leave drawing and handles to the stage and the tools',
  ),
  arrow(['server/**/*.ts'], '/app/', 'the server imports nothing from the app'),
)
