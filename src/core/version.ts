/** The version of the program, as `package.json` has it. */
export const VERSION = '0.1.0';
