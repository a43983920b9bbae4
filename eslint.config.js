import js from '@eslint/js';
import tseslint from 'typescript-eslint';
import reactHooks from 'eslint-plugin-react-hooks';

/**
 * The rooms of the house, lowest first. A room may import only from rooms of a lower rank
 * (docs/architecture.md). Inside `core` rooms are folders; elsewhere they are workspaces.
 */
const coreRooms = [
  ['signal'],
  ['theory'],
  ['song'],
  ['reading', 'formats'],
  ['retune', 'notation'],
  ['arranging', 'shelf'],
];
const houses = ['core', 'contract', 'server|web|cli|demo|bench'];

const houseImports = (names) => [
  { regex: `^@plundra/(${names})(/|$)`, message: 'Imports run downwards only (docs/architecture.md).' },
  { regex: '^@plundra/core/[a-z]+/.', message: 'Import a room of core through its index.' },
];

const coreRules = coreRooms.flatMap((rooms, rank) =>
  rooms.map((room) => {
    const forbidden = coreRooms
      .slice(rank)
      .flat()
      .filter((other) => other !== room);
    return {
      files: [`core/src/${room}/**/*.ts`],
      // Tests may use the helpers beside the rooms.
      ignores: ['**/*.test.ts'],
      rules: {
        'no-restricted-imports': [
          'error',
          {
            patterns: [
              {
                regex: `^(\\.\\./)+(${forbidden.join('|')})/`,
                message: `core/${room} may import only from rooms below it.`,
              },
              {
                regex: '^(\\.\\./)+[a-z]+/(?!index\\.ts$)',
                message: 'Import another room through its index.ts.',
              },
              { regex: '^node:', message: 'core is pure computation: no Node API.' },
              { regex: '^@plundra/', message: 'core imports its own rooms by relative path.' },
            ],
          },
        ],
        'no-restricted-globals': [
          'error',
          ...['window', 'document', 'process', 'Buffer', 'fetch', 'performance', 'setTimeout', 'Date'].map(
            (name) => ({
              name,
              message: 'core is free of interface, I/O and clock.',
            }),
          ),
        ],
        'no-restricted-properties': [
          'error',
          { object: 'Math', property: 'random', message: 'Randomness in core is seeded.' },
        ],
      },
    };
  }),
);

/** Rooms of the web application, lowest first; those of one rank know nothing of each other, but for the controls' looks. */
const webRooms = [['api', 'theme', 'controls'], ['audio', 'canvas'], ['song'], ['places'], ['shell']];

const webRules = webRooms.flatMap((rooms, rank) =>
  rooms.map((room) => {
    const sameRank = rank === 0 ? [] : rooms.filter((other) => other !== room);
    const forbidden = [...sameRank, ...webRooms.slice(rank + 1).flat()];
    return {
      files: [`web/src/${room}/**/*.{ts,tsx}`],
      ignores: ['**/*.test.ts'],
      rules: {
        'no-restricted-imports': [
          'error',
          {
            patterns: [
              ...houseImports('server|cli|demo|bench'),
              ...(forbidden.length > 0
                ? [
                    {
                      regex: `^(\\.\\./)+(${forbidden.join('|')})/`,
                      message: `web/${room} may import only from rooms below it (docs/architecture.md).`,
                    },
                  ]
                : []),
            ],
          },
        ],
      },
    };
  }),
);

const forbidHouses = (names) => ({
  'no-restricted-imports': ['error', { patterns: houseImports(names) }],
});

export default tseslint.config(
  { ignores: ['**/dist/**', '**/node_modules/**', 'data/**', 'demo/data/**', 'web/public/**', 'tmp/**'] },
  js.configs.recommended,
  ...tseslint.configs.recommended,
  {
    rules: {
      // A field is taken out of an object by naming it beside the rest.
      '@typescript-eslint/no-unused-vars': ['error', { ignoreRestSiblings: true }],
    },
  },
  {
    files: ['scripts/**', '*.js', '*.mjs'],
    languageOptions: {
      globals: {
        process: 'readonly',
        console: 'readonly',
        URL: 'readonly',
        setTimeout: 'readonly',
        fetch: 'readonly',
      },
    },
  },
  {
    files: ['**/*.ts', '**/*.tsx'],
    rules: { 'no-undef': 'off', '@typescript-eslint/consistent-type-imports': 'error' },
  },
  { files: ['web/**/*.tsx', 'web/**/*.ts'], ...reactHooks.configs.flat['recommended-latest'] },
  ...coreRules,
  { files: ['contract/src/**/*.ts'], rules: forbidHouses(houses[2]) },
  { files: ['server/src/**/*.ts'], rules: forbidHouses('web|cli|demo|bench') },
  ...webRules,
  { files: ['web/src/main.tsx', 'web/src/test/**'], rules: forbidHouses('server|cli|demo|bench') },
  { files: ['cli/src/**/*.ts'], rules: forbidHouses('web|demo|bench') },
  {
    // A part may have many passages: what sounds where is asked of core/song (placed.ts).
    files: ['{core,server,web,cli,bench}/src/**/*.{ts,tsx}'],
    ignores: ['**/*.test.ts', '**/test/**'],
    rules: {
      'no-restricted-syntax': [
        'error',
        ...[
          "MemberExpression[computed=true][property.value=0] > MemberExpression.object[property.name='passages']",
          "CallExpression[callee.property.name='at'][arguments.0.value=0] > MemberExpression > MemberExpression[property.name='passages']",
          "VariableDeclarator[id.type='ArrayPattern'] > MemberExpression.init[property.name='passages']",
        ].map((selector) => ({
          selector,
          message: 'A part may have many passages; ask placedRecordings, placedNotes or soundingSpans.',
        })),
      ],
    },
  },
);
