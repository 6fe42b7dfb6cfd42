import hooks from 'eslint-plugin-react-hooks';
import tseslint from 'typescript-eslint';

// What asks for types is asked by oxlint, which has the native checker: a fifth of the time.
const ONE_CLOCK = [
  'NewExpression[callee.name="Date"][arguments.length=0]',
  'CallExpression[callee.object.name="Date"][callee.property.name="now"]',
  String.raw`TemplateElement[value.raw=/\b(now\(\)|current_date|current_timestamp|localtimestamp|clock_timestamp)/i]`,
].map((selector) => ({
  selector,
  message: 'There is one clock: the context’s now and today, in SQL desk_now().',
}));

// A query is read by people too.
const SHORT_LINES = {
  selector: 'TemplateElement[value.raw=/^.{141,}$/m]',
  message: 'No line of a query is longer than 140 characters.',
};

export default tseslint.config(
  {
    ignores: [
      '.next/**',
      '.data/**',
      'node_modules/**',
      'next-env.d.ts',
      'playwright-report/**',
      'test-results/**',
    ],
  },
  ...tseslint.configs.recommended,
  {
    files: ['**/*.{ts,tsx}'],
    rules: {
      '@typescript-eslint/no-unused-expressions': 'off',
      '@typescript-eslint/no-unused-vars': ['error', { argsIgnorePattern: '^_', varsIgnorePattern: '^_' }],
      eqeqeq: 'error',
    },
  },
  {
    files: ['src/app/**/*.tsx', 'src/ui/**/*.tsx'],
    plugins: { 'react-hooks': hooks },
    rules: { 'react-hooks/rules-of-hooks': 'error', 'react-hooks/exhaustive-deps': 'warn' },
  },
  {
    files: ['src/**/*.tsx'],
    ignores: ['src/ui/link.tsx'],
    rules: {
      'no-restricted-imports': [
        'error',
        {
          paths: [
            {
              name: 'next/link',
              importNames: ['default'],
              message: 'Use Link of ui/link, which fetches nothing before it is followed.',
            },
          ],
        },
      ],
    },
  },
  {
    // One clock. Sign-in has its own, and the files of the exchange have that of their folder.
    files: ['src/{app,core,server,demo,ui}/**/*.{ts,tsx}', 'src/db/migrations/**/*.ts'],
    ignores: [
      '**/*.test.ts',
      'src/server/users/**',
      'src/server/folders.ts',
      'src/db/migrations/foundation/{domains,sign-in}.ts',
      'src/ui/idle.ts',
      'src/demo/{scenario,overdue}.ts',
    ],
    rules: { 'no-restricted-syntax': ['error', ...ONE_CLOCK, SHORT_LINES] },
  },
  {
    // One answer to what is owed, past due, and since when. Mail writes what its statements say, and exports hand all of it over.
    files: ['src/server/**/*.ts'],
    ignores: [
      '**/*.test.ts',
      'src/server/users/**',
      'src/server/folders.ts',
      'src/server/books/**',
      'src/server/mail/pieces.ts',
      'src/server/exports/tables.ts',
    ],
    rules: {
      'no-restricted-syntax': [
        'error',
        ...ONE_CLOCK,
        SHORT_LINES,
        ...[
          String.raw`TemplateElement[value.raw=/\b(statement_charge|patient_since)\b/]`,
          'Literal[value=/^(statement_charge|patient_since)/]',
        ].map((selector) => ({
          selector,
          message: 'What is owed, past due and since when is asked of books/owed.',
        })),
      ],
    },
  },
  {
    // A test makes what it looks at and finds it by name: what stands in the demo, and in which order, is the demo's.
    files: ['e2e/**/*.spec.ts'],
    rules: {
      'no-restricted-syntax': [
        'error',
        {
          selector: 'CallExpression[callee.property.name=/^(first|last|nth)$/]',
          message: 'Find it by its name, or say with anyOf or lastOf why its place does not matter.',
        },
        {
          selector: String.raw`Literal[value=/\/(accounts|claims|remittances|batches|placements|letters|plans)\/[1-9]\d{0,4}(?!\w)/]`,
          message: 'Make your own with the builders of src/testing, and use its id.',
        },
      ],
    },
  },
  { files: ['**/*.cjs'], rules: { '@typescript-eslint/no-require-imports': 'off' } },
);
