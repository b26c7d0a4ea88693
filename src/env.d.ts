/// <reference types="astro/client" />

type Laager = import('./server/app').App;
type LaagerApi = import('./server/api').Laager;
type Scope = import('./server/access').Scope;

declare namespace App {
  interface Locals {
    laager: Laager;
    api: LaagerApi;
    /** The address that the connection comes from; undefined while one develops. */
    peer?: string;
    /** Who is signed in; pages other than the sign-in page are only reached with one. */
    scope: Scope | undefined;
  }
}
