/// <reference types="astro/client" />

declare namespace App {
  interface Locals {
    laager: import('./server/app').App;
    /** Who is signed in; pages other than the sign-in page are only reached with one. */
    scope: import('./server/access').Scope | undefined;
  }
}
