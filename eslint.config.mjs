import js from '@eslint/js';
import prettier from 'eslint-config-prettier';
import vue from 'eslint-plugin-vue';
import regexp from 'eslint-plugin-regexp';
import globals from 'globals';
import ts from 'typescript-eslint';
import vueParser from 'vue-eslint-parser';

/** Imports point one way: web -> (api, core); server -> (api, core); core -> nothing of ours. */
function mayNotImport(files, rooms, why, more = []) {
  const group = rooms.flatMap((room) => [
    `**/${room}/**`,
    `../${room}/**`,
    `../../${room}/**`,
    `../../../${room}/**`,
  ]);
  return {
    files,
    rules: { 'no-restricted-imports': ['error', { patterns: [{ group, message: why }, ...more] }] },
  };
}

const ONE_WAY = [
  {
    selector: 'CallExpression[callee.property.name="transaction"]',
    message: 'There is one way to write: db.write(work).',
  },
  {
    selector: 'ImportDeclaration[source.value="@koa/router"]',
    message: 'There is one way to add a route: defineRoute (server/http/route.ts).',
  },
];

export default ts.config(
  { ignores: ['build/**', 'node_modules/**', 'demo-site/**'] },
  js.configs.recommended,
  ...ts.configs.recommended,
  // What is said of components is asked of components only.
  ...vue.configs['flat/recommended'].map((one) => ({ files: ['**/*.vue'], ...one })),
  prettier,
  {
    languageOptions: { globals: { ...globals.node, ...globals.browser } },
    rules: {
      '@typescript-eslint/consistent-type-imports': ['error', { disallowTypeAnnotations: false }],
      '@typescript-eslint/no-explicit-any': 'error',
      '@typescript-eslint/no-unused-vars': ['error', { ignoreRestSiblings: true }],
      'no-console': 'error',
      eqeqeq: 'error',
    },
  },
  {
    // Regular expressions take time that grows with the text, and no more than that: they meet what others have written.
    plugins: { regexp },
    rules: {
      'regexp/no-super-linear-backtracking': ['error', { report: 'potential' }],
      'regexp/no-super-linear-move': [
        'error',
        { report: 'potential', ignorePartial: false, ignoreSticky: false },
      ],
    },
  },
  {
    files: ['**/*.vue'],
    languageOptions: { parser: vueParser, parserOptions: { parser: ts.parser, sourceType: 'module' } },
  },
  {
    // Controls are the kit's: screens place them. The tiles of the contact sheet are many, and their own.
    files: ['web/**/*.vue'],
    ignores: ['web/kit/**', 'web/sections/library/SheetItem.vue'],
    rules: {
      'vue/no-restricted-html-elements': [
        'error',
        ...['button', 'input', 'select', 'textarea', 'table', 'dialog', 'details'].map((element) => ({
          element,
          message: 'Take a control of web/kit.',
        })),
      ],
    },
  },
  {
    files: ['core/**'],
    rules: {
      'no-restricted-imports': [
        'error',
        {
          patterns: [
            {
              group: ['**/server/**', '**/web/**', '**/api/**', '**/cli/**', '**/demo/**'],
              message: 'core imports nothing of ours.',
            },
            {
              group: ['node:*', 'vue', 'koa', 'better-sqlite3', 'sharp'],
              message: 'core has no interface, server, database or file system.',
            },
          ],
        },
      ],
      'no-restricted-globals': ['error', 'Date', 'Buffer', 'process', 'window', 'document', 'fetch'],
    },
  },
  { files: ['core/**/*.test.ts'], rules: { 'no-restricted-globals': 'off' } },
  {
    // Nothing is left to fail unheard: a rejected promise that nobody waits for would end the server.
    files: ['server/**/*.ts', 'cli/**/*.ts', 'demo/**/*.ts'],
    languageOptions: { parserOptions: { projectService: true, tsconfigRootDir: import.meta.dirname } },
    rules: { '@typescript-eslint/no-floating-promises': ['error', { ignoreVoid: false }] },
  },
  {
    files: ['server/**', 'cli/**', 'bench/**', 'demo/**'],
    rules: {
      'no-restricted-syntax': ['error', ...ONE_WAY],
    },
  },
  { files: ['server/http/route.ts'], rules: { 'no-restricted-syntax': 'off' } },
  {
    // A function says what it takes of a site: Pick<Site, …>. Kinds of plan and routes are handed all of it, to pass on what each of them needs.
    files: [
      'server/{changes,describe,export,files,intake,media,preview,scan,upkeep}/*.ts',
      'server/http/views/*.ts',
    ],
    ignores: ['**/*.test.ts'],
    rules: {
      'no-restricted-syntax': [
        'error',
        ...ONE_WAY,
        {
          selector: ':function > * > TSTypeAnnotation > TSTypeReference[typeName.name=/^(Site|OpenedSite)$/]',
          message: 'Say what it needs of the site: Pick<Site, …>.',
        },
        {
          selector:
            'TSParameterProperty > * > TSTypeAnnotation > TSTypeReference[typeName.name=/^(Site|OpenedSite)$/]',
          message: 'Say what it needs of the site: Pick<Site, …>.',
        },
      ],
    },
  },
  mayNotImport(['api/**'], ['server', 'web', 'cli', 'demo'], 'api imports core only.'),
  mayNotImport(['server/**'], ['web', 'cli', 'demo', 'e2e'], 'server imports core and api only.', [
    {
      group: ['**/core/reference/**'],
      importNamePattern:
        '^(readPage|rewritePage|editPage|rewriteWords|markedPage|elementsOf|placedWords|placementReading|galleriesIn|htmlPlacement|markdownPlacement|embeddedHtml|cssRules|pictureClasses|NameIndex|[a-z]+References)$',
      message: 'Parsers run in workers, in bounded time: only server/workers/worker.ts calls them.',
    },
  ]),
  mayNotImport(
    ['server/workers/worker.ts'],
    ['web', 'cli', 'demo', 'e2e'],
    'server imports core and api only.',
  ),
  { files: ['server/**/*.test.ts'], rules: { 'no-restricted-imports': 'off' } },
  mayNotImport(['web/**'], ['server', 'cli', 'demo', 'e2e'], 'web imports api and core only.'),
  {
    files: ['**/*.test.ts', 'e2e/**', '**/test/**'],
    rules: { 'regexp/no-super-linear-backtracking': 'off', 'regexp/no-super-linear-move': 'off' },
  },
);
