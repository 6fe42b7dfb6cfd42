import type { NextConfig } from 'next';

const config: NextConfig = {
  poweredByHeader: false,
  reactStrictMode: true,
  // Types are checked by `./wergeld test checks`, once, and not again by each build.
  typescript: { ignoreBuildErrors: true },
  serverExternalPackages: ['pdfkit', 'pg', 'pg-boss', 'better-auth', 'pino'],
  experimental: { serverActions: { bodySizeLimit: '2mb' }, authInterrupts: true },
  headers: async () => [
    {
      source: '/:path*',
      headers: [
        { key: 'X-Content-Type-Options', value: 'nosniff' },
        { key: 'X-Frame-Options', value: 'DENY' },
        { key: 'Referrer-Policy', value: 'same-origin' },
        { key: 'Cross-Origin-Opener-Policy', value: 'same-origin' },
        { key: 'Cross-Origin-Resource-Policy', value: 'same-origin' },
        {
          key: 'Permissions-Policy',
          value: 'camera=(), microphone=(), geolocation=(), payment=(), usb=(), browsing-topics=()',
        },
      ],
    },
    // The pages of a piece of mail are looked at beside their list.
    { source: '/api/pieces/:path*', headers: [{ key: 'X-Frame-Options', value: 'SAMEORIGIN' }] },
    // Answers that are no pages: nothing in them runs, and nobody but ourselves shows them in a frame; a PDF is drawn by the browser itself.
    {
      source: '/api/:path*',
      headers: [
        {
          key: 'Content-Security-Policy',
          value: "default-src 'none'; object-src 'self'; style-src 'unsafe-inline'; frame-ancestors 'none'",
        },
      ],
    },
    {
      source: '/api/pieces/:path*',
      headers: [
        {
          key: 'Content-Security-Policy',
          value: "default-src 'none'; object-src 'self'; style-src 'unsafe-inline'; frame-ancestors 'self'",
        },
      ],
    },
  ],
};

export default config;
