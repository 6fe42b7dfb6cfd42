/** The national provider identifier. */

/**
 * Whether ten digits are an NPI: the Luhn check over the digits with the prefix 80840, as CMS publishes it
 * (“Requirements for NPI and NPI Check Digit”).
 */
export function isNpi(text: string): boolean {
  return /^[12]\d{9}$/.test(text) && npiCheckDigit(text.slice(0, 9)) === text[9];
}

/** The check digit for the first nine digits of an NPI. */
export function npiCheckDigit(nine: string): string {
  // The constant 24 is the Luhn sum of the prefix 80840.
  let total = 24;
  for (let at = 0; at < 9; at += 1) {
    const digit = Number(nine[8 - at]);
    const doubled = digit * 2;
    total += at % 2 === 0 ? (doubled > 9 ? doubled - 9 : doubled) : digit;
  }
  return String((10 - (total % 10)) % 10);
}
