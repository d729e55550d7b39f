/// <reference types="astro/client" />

declare namespace App {
  interface Locals {
    /** Who asks, after the middleware let them in. */
    user: string | null;
    session: import('./access/access.ts').Session | null;
  }
}
