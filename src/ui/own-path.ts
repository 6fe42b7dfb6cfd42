/** A path of ours to go to, from an address that anybody may have written; the start page when it leads elsewhere. */
export const ownPath = (text: string | undefined): string =>
  // Two slashes, or a backslash after the first one, begin an address elsewhere.
  text !== undefined && /^\/(?![/\\])[^\s\\]*$/.test(text) ? text : '/';
