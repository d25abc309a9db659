// Not in TypeScript: a compiler would be kept in the server's memory for as long as it runs, for this file alone.
/** @type {import('next').NextConfig} */
const config = {
  serverExternalPackages: ['knex', 'better-sqlite3', '@node-rs/argon2', 'pino', 'nodemailer', 'fflate', 'prom-client'],
  poweredByHeader: false,
  experimental: { optimizePackageImports: ['@mantine/core', '@mantine/hooks', '@tabler/icons-react'] },
  async rewrites() {
    // Browsers ask for it by this name where a page cannot tell them another.
    return [{ source: '/favicon.ico', destination: '/icon.svg' }];
  },
  async headers() {
    return [
      {
        source: '/:path*',
        headers: [
          { key: 'X-Content-Type-Options', value: 'nosniff' },
          { key: 'X-Frame-Options', value: 'DENY' },
          { key: 'Referrer-Policy', value: 'same-origin' },
          { key: 'Cross-Origin-Opener-Policy', value: 'same-origin' },
          { key: 'Permissions-Policy', value: 'camera=(), microphone=(), geolocation=()' },
          { key: 'Strict-Transport-Security', value: 'max-age=31536000' },
        ],
      },
      { source: '/api/:path*', headers: [{ key: 'Cache-Control', value: 'private, no-store' }] },
    ];
  },
};

export default config;
