/// <reference types="astro/client" />

declare namespace App {
  interface Locals {
    /** Who asks, after the middleware let them in. */
    user: string | null;
    /** The request as Node has it; the development server does not tell it. */
    incoming?: import('node:http').IncomingMessage;
    session: import('./access/access.ts').Session | null;
    /** By what they were let in: a session or a token, and until when that holds. */
    credential: { readonly id: string; readonly until: number | null } | null;
  }
}
