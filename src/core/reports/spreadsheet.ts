/** Values for spreadsheets. */

/**
 * Guards text against being run as a formula by a spreadsheet: a leading = + - @, tab or carriage return gets an apostrophe
 * before it; plain numbers stay. A moment is said as ISO 8601 does. Source: OWASP, “CSV Injection”.
 */
export function guarded(value: unknown): string {
  if (value instanceof Date) return value.toISOString();
  const text = value === null || value === undefined ? '' : String(value);
  return /^[=+\-@\t\r]/.test(text) && !/^-?\d+(\.\d+)?$/.test(text) ? `'${text}` : text;
}
