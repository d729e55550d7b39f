import node from '@astrojs/node';
import react from '@astrojs/react';
import tailwindcss from '@tailwindcss/vite';
import { defineConfig } from 'astro/config';
import { FORM_BODIES } from './src/schemas/forms.ts';
import { formats } from './src/schemas/formats.ts';
import { PALETTES } from './src/views/theme/palette.ts';
import { checks } from './tools/checks.mjs';
import { palette, withoutThemes } from './tools/palette-css.mjs';

export default defineConfig({
  output: 'server',
  adapter: node({ mode: 'middleware' }),
  integrations: [react()],
  // The CSRF token guards; the origin check would answer in its own words.
  security: { checkOrigin: false },
  experimental: {
    csp: {
      directives: [
        "default-src 'self'",
        "img-src 'self' data:",
        "font-src 'self'",
        "connect-src 'self'",
        "worker-src 'self'",
        "frame-ancestors 'self'",
        "base-uri 'none'",
        "form-action 'self'",
        "object-src 'none'",
      ],
    },
  },
  devToolbar: { enabled: false },
  vite: {
    plugins: [palette(PALETTES), withoutThemes(), checks(FORM_BODIES, formats), tailwindcss()],
    build: { chunkSizeWarningLimit: 1500, assetsInlineLimit: 0 },
  },
});
