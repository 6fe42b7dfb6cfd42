/** What is typed of a service, as the server takes it. */

/** The letters by which a line points to the diagnoses of its claim (twelve at most). */
export const LETTERS = 'ABCDEFGHIJKL';

/** Modifiers as they are typed: two characters each, with or without something between them. */
export const modifiersOf = (typed: string): string[] =>
  typed
    .toUpperCase()
    .split(/[\s,]+/)
    .flatMap((word) => word.match(/.{1,2}/g) ?? [])
    .filter(Boolean);

/** The diagnoses that letters point to, in their order; the first four where nothing is typed. */
export const pointedOf = (typed: string, diagnoses: readonly string[]): string[] =>
  typed.trim() === ''
    ? diagnoses.slice(0, 4)
    : [...new Set(typed.toUpperCase().replaceAll(/[^A-L]/g, ''))].flatMap(
        (letter) => diagnoses[LETTERS.indexOf(letter)] ?? [],
      );

/** How much: units, or of what is billed by time minutes, unless units are typed with a u behind them. */
export const amountOf = (typed: string, timed: boolean): { units?: string; minutes?: string } =>
  timed && !/u$/i.test(typed.trim()) ? { minutes: typed } : { units: typed.replace(/u$/i, '') };
