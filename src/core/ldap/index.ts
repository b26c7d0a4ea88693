export { comparedDn, parseDn, unitBelow, type Rdn } from './dn';
export { isLdif, isPerson, parseLdif, rowOfEntry, type LdifEntry, type LdifFault } from './ldif';
