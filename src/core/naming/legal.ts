/** RFC 1001 section 14: a NetBIOS name has 16 bytes, the last of which tells the service, so 15 are the name's. */
export const COMPUTER_NAME_LENGTH = 15;

/**
 * What is wrong with a computer name, each in plain words; empty when it is legal.
 * Sources: RFC 1123 section 2.1 (letters, digits, hyphen; may begin with a digit), RFC 952 (no hyphen first or last),
 * RFC 1001/1002 (15 characters). Not all digits: RFC 1123 section 2.1, so that no name reads as an address.
 */
export function nameFaults(name: string): string[] {
  const faults: string[] = [];
  if (name.length === 0) faults.push('is empty');
  if (name.length > COMPUTER_NAME_LENGTH)
    faults.push(`has ${name.length} characters; ${COMPUTER_NAME_LENGTH} is the most`);
  if (!/^[A-Za-z0-9-]*$/.test(name)) faults.push('may hold only letters, digits and hyphens');
  if (name.startsWith('-') || name.endsWith('-')) faults.push('may not begin or end with a hyphen');
  if (/^\d+$/.test(name)) faults.push('may not be all digits');
  return faults;
}
