/// <reference types="astro/client" />

declare namespace App {
  interface Locals {
    /** Who asks, after the middleware let them in. */
    user: string | null;
    /** What is asked where there may be a body: that is read at its source while the request finds its way. The development server does not do that. */
    asked?: { readonly method: string; readonly body: Promise<import('./pages/api/_body.ts').Body> };
    session: import('./access/access.ts').Session | null;
    /** By what they were let in: a session or a token, and until when that holds. */
    credential: { readonly id: string; readonly until: number | null } | null;
  }
}
