import '@fontsource-variable/source-sans-3/wght.css';
import '../ui/components.css';
import '../ui/base.css';
import type { Metadata } from 'next';
import { TOKEN_SHEET } from '../core/tokens';
import { chosenTheme, pageNonce } from './session';

/** What the browser shows as title. */
export const metadata: Metadata = {
  title: { default: 'Wergeld', template: '%s · Wergeld' },
  description: 'The billing desk of a medical or dental practice',
};

/** The document: language, colors and font. */
export default async function Root({ children }: { children: React.ReactNode }) {
  const [mode, nonce] = await Promise.all([chosenTheme(), pageNonce()]);
  return (
    <html lang="en" data-theme={mode}>
      <head>
        <style nonce={nonce} dangerouslySetInnerHTML={{ __html: TOKEN_SHEET }} />
      </head>
      <body>{children}</body>
    </html>
  );
}
