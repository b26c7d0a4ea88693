/** More customers than fit on one screen as large rings. */
export const MANY = 24;
