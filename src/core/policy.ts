/** What a browser may do with our pages (Content Security Policy, Level 3). */

/** Scripts and style sheets of this page alone, and in frames what we print and the card terminal’s own page; style attributes are how the widgets place themselves. */
export const contentPolicy = (nonce: string, terminal: string | null = null): string =>
  [
    "default-src 'none'",
    `script-src 'self' 'nonce-${nonce}' 'strict-dynamic'`,
    `style-src 'self' 'nonce-${nonce}'`,
    "style-src-attr 'unsafe-inline'",
    "img-src 'self' data:",
    "font-src 'self'",
    "connect-src 'self'",
    // A card number is typed in the terminal’s own frame, and never here.
    `frame-src 'self'${terminal === null ? '' : ` ${new URL(terminal).origin}`}`,
    "form-action 'self'",
    "frame-ancestors 'none'",
    "base-uri 'none'",
  ].join('; ');
