declare module 'currency-codes/data' {
  const currencies: readonly { readonly code: string; readonly digits: number }[];
  export default currencies;
}
