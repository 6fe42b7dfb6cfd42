/**
 * A search as it may stand in an address: what is typed are names, and addresses are kept by browsers and proxies. Sealed by
 * the installation's secret (AES-256-GCM), the same search has the same address, for everybody who is signed in here.
 */
import { createCipheriv, createDecipheriv, createHash, createHmac } from 'node:crypto';

const MARK = '~';
const NONCE = 12;
const TAG = 16;

const key = (): Buffer =>
  createHash('sha256')
    .update(`searches of lists ${process.env.WERGELD_SECRET ?? ''}`)
    .digest();

/** Seals a search. */
export function sealSearch(text: string): string {
  const nonce = createHmac('sha256', key()).update(text).digest().subarray(0, NONCE);
  const cipher = createCipheriv('aes-256-gcm', key(), nonce);
  const sealed = Buffer.concat([cipher.update(text, 'utf8'), cipher.final()]);
  return MARK + Buffer.concat([nonce, sealed, cipher.getAuthTag()]).toString('base64url');
}

/** The search of an address: opened where it is sealed, as it is where somebody wrote it by hand, nothing where it is neither. */
export function openSearch(text: string): string {
  if (!text.startsWith(MARK)) return text;
  const bytes = Buffer.from(text.slice(1), 'base64url');
  if (bytes.length < NONCE + TAG) return '';
  try {
    const open = createDecipheriv('aes-256-gcm', key(), bytes.subarray(0, NONCE));
    open.setAuthTag(bytes.subarray(bytes.length - TAG));
    return Buffer.concat([open.update(bytes.subarray(NONCE, bytes.length - TAG)), open.final()]).toString(
      'utf8',
    );
  } catch {
    return '';
  }
}
