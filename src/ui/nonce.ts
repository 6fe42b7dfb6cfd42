/** The nonce that the document came with; later answers have others, which its browser does not take. */
export const documentNonce = (): string | undefined =>
  typeof document === 'undefined'
    ? undefined
    : document.querySelector<HTMLScriptElement>('script[nonce]')?.nonce;

let given = false;

/**
 * Gives the nonce to every style sheet that our scripts make: those of the components do not all ask for it. Scripts that are
 * not ours do not run here at all.
 */
export function giveNonce(): void {
  const nonce = documentNonce();
  if (given || !nonce) return;
  given = true;
  const make = document.createElement.bind(document) as (name: string, more?: unknown) => HTMLElement;
  document.createElement = ((name: string, more?: unknown) => {
    const element = make(name, more);
    if (name.toLowerCase() === 'style') element.nonce = nonce;
    return element;
  }) as typeof document.createElement;
}
