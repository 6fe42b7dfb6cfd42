/** The design tokens: one set of colors for the style sheet, the components, the charts and what is printed. */

/**
 * Colors by mode. Paper, ink, spruce for what can be done, brass for “look here”, brick for “stop”; then the parts of the
 * fee strip in their order.
 */
export const TOKENS = {
  light: {
    paper: '#fbf9f4',
    raised: '#ffffff',
    ink: '#1d2a26',
    quiet: '#5b6b65',
    line: '#e4dfd3',
    edge: '#cfc8b8',
    spruce: '#1f5c4a',
    brass: '#8a6414',
    brick: '#a03a26',
    band: '#f3efe6',
    hover: '#ebe5d8',
    mark: '#f6ecd2',
    payerPaid: '#1f5c4a',
    patientPaid: '#5f9c86',
    agencyPaid: '#8fb8c9',
    reduced: '#cbc4b3',
    expected: '#b3a88f',
    withPayer: '#6b7f9c',
    withPatient: '#c08a1e',
    onPlan: '#8c6bb0',
    atAgency: '#a03a26',
  },
  dark: {
    paper: '#151a18',
    raised: '#1c2320',
    ink: '#e9e6dd',
    quiet: '#a3afa9',
    line: '#33403a',
    edge: '#4a5a53',
    spruce: '#6fbf9f',
    brass: '#d9b45c',
    brick: '#e58a72',
    band: '#232c28',
    hover: '#2b3631',
    mark: '#3a3320',
    payerPaid: '#4fa383',
    patientPaid: '#93cdb6',
    agencyPaid: '#5f8fa3',
    reduced: '#57615b',
    expected: '#77705a',
    withPayer: '#8fa5c6',
    withPatient: '#d9a53c',
    onPlan: '#b497d6',
    atAgency: '#d9705a',
  },
} as const;

/** Light or dark. */
export type Mode = keyof typeof TOKENS;

const variables = (mode: Mode): string =>
  Object.entries(TOKENS[mode])
    .map(([name, color]) => `--${name.replace(/[A-Z]/g, (letter) => `-${letter.toLowerCase()}`)}:${color};`)
    .join('');

/** The tokens as variables of the style sheet: `payerPaid` is `var(--payer-paid)`. Paper is light in every mode. */
export const TOKEN_SHEET = `:root{${variables('light')}}@media screen{[data-theme='dark']{${variables('dark')}color-scheme:dark}}`;
