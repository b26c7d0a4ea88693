import { describe, expect, it } from 'vitest';
import fc from 'fast-check';
import { comparedDn, isLdif, isPerson, parseDn, parseLdif, rowOfEntry, unitBelow } from '../../src/core/ldap';
import { PEOPLE_COLUMNS, readPeople } from '../../src/core/people';

/* RFC 4514, section 4: its examples, written from memory of it. */
describe('a distinguished name', () => {
  it.each<[string, string[]]>([
    ['UID=jsmith,DC=example,DC=net', ['uid: jsmith', 'dc: example', 'dc: net']],
    ['OU=Sales+CN=J.  Smith,DC=example,DC=net', ['ou: Sales', 'dc: example', 'dc: net']],
    [
      'CN=James \\"Jim\\" Smith\\, III,DC=example,DC=net',
      ['cn: James "Jim" Smith, III', 'dc: example', 'dc: net'],
    ],
    ['CN=Before\\0dAfter,DC=example,DC=net', ['cn: Before\rAfter', 'dc: example', 'dc: net']],
    ['1.3.6.1.4.1.1466.0=#04024869', ['1.3.6.1.4.1.1466.0: #04024869']],
    ['CN=Lu\\C4\\8Di\\C4\\87', ['cn: Lučić']],
    ['', []],
  ])('%s', (text, steps) =>
    expect(parseDn(text)?.map(({ type, value }) => `${type}: ${value}`)).toEqual(steps),
  );

  it.each(['nothing', '=value', 'ou=a,,dc=b', 'o u=a'])('%s is none', (text) =>
    expect(parseDn(text)).toBeUndefined(),
  );

  it('may have values in quotes, as RFC 2253 has them, and spaces that do not count', () =>
    expect(parseDn('CN="Pike, Ferrow" , O=Survey')).toEqual([
      { type: 'cn', value: 'Pike, Ferrow' },
      { type: 'o', value: 'Survey' },
    ]));

  it('is the same in other letters and escapes', () => {
    expect(comparedDn('UID=Ann, OU=Front\\20desk,DC=svg')).toBe(comparedDn('uid=ann,ou=front desk,dc=SVG'));
    expect(comparedDn('cn=a\\,b,dc=c')).not.toBe(comparedDn('cn=a,cn=b,dc=c'));
    expect(comparedDn('cn=a\\2Cb,dc=c')).toBe(comparedDn('cn=a\\,b,dc=c'));
  });

  it('says where an entry stands below a base', () => {
    expect(unitBelow('uid=ann,ou=Ardle,ou=Clinics,dc=svg,dc=example', 'dc=svg,dc=example')).toBe(
      'Clinics/Ardle',
    );
    expect(unitBelow('uid=ann,dc=svg,dc=example', 'dc=svg,dc=example')).toBe('');
    expect(unitBelow('uid=ann,ou=In/Out,dc=svg', 'dc=svg')).toBe('In-Out');
  });

  it('is read whatever it holds', () =>
    fc.assert(
      fc.property(fc.string({ unit: 'grapheme' }), (value) => {
        const escaped = [...new TextEncoder().encode(value)]
          .map((byte) => `\\${byte.toString(16).padStart(2, '0')}`)
          .join('');
        expect(parseDn(`cn=${escaped},dc=x`)?.[0]?.value).toBe(value);
      }),
    ));
});

/* RFC 2849: the first four of its examples, written from memory of it. */
const SIMPLE = `version: 1
dn: cn=Barbara Jensen, ou=Product Development, dc=airius, dc=com
objectclass: top
objectclass: person
objectclass: organizationalPerson
cn: Barbara Jensen
cn: Barbara J Jensen
cn: Babs Jensen
sn: Jensen
uid: bjensen
telephonenumber: +1 408 555 1212
description: A big sailing fan.

dn: cn=Bjorn Jensen, ou=Accounting, dc=airius, dc=com
objectclass: top
objectclass: person
objectclass: organizationalPerson
cn: Bjorn Jensen
sn: Jensen
telephonenumber: +1 408 555 1212
`;
const FOLDED = `version: 1
dn:cn=Barbara Jensen, ou=Product Development, dc=airius, dc=com
objectclass:top
objectclass:person
objectclass:organizationalPerson
cn:Barbara Jensen
cn:Barbara J Jensen
cn:Babs Jensen
sn:Jensen
uid:bjensen
telephonenumber:+1 408 555 1212
description:Babs is a big sailing fan, and travels extensively in sea
 rch of perfect sailing conditions.
title:Product Manager, Rod and Reel Division
`;
const BASE64 = `version: 1
dn: cn=Gern Jensen, ou=Product Testing, dc=airius, dc=com
objectclass: top
objectclass: person
objectclass: organizationalPerson
cn: Gern Jensen
cn: Gern O Jensen
sn: Jensen
uid: gernj
telephonenumber: +1 408 555 1212
description:: V2hhdCBhIGNhcmVmdWwgcmVhZGVyIHlvdSBhcmUhICBUaGlzIHZhbHVl
 IGlzIGJhc2UtNjQtZW5jb2RlZCBiZWNhdXNlIGl0IGhhcyBhIGNvbnRyb2wgY2hhcmFjdG
 VyIGluIGl0IChhIENSKS4NICBCeSB0aGUgd2F5LCB5b3Ugc2hvdWxkIHJlYWxseSBnZXQg
 b3V0IG1vcmUu
`;
const UTF8 = `version: 1
dn:: b3U95Za25qWt6YOoLG89QWlyaXVz
# dn:: ou=<JapaneseOU>,o=Airius
objectclass: top
objectclass: organizationalUnit
ou:: 5Za25qWt6YOo
# ou:: <JapaneseOU>
ou;lang-ja:: 5Za25qWt6YOo
ou;lang-en: Sales
description: Japanese office
`;

describe('an LDIF file', () => {
  const first = (text: string) => parseLdif(text).entries[0];

  it('has entries with attributes of several values (example 1)', () => {
    const { entries, faults } = parseLdif(SIMPLE);
    expect(faults).toEqual([]);
    expect(entries.map(({ dn, line }) => [dn, line])).toEqual([
      ['cn=Barbara Jensen, ou=Product Development, dc=airius, dc=com', 2],
      ['cn=Bjorn Jensen, ou=Accounting, dc=airius, dc=com', 14],
    ]);
    expect(entries[0]?.attributes.get('cn')).toEqual(['Barbara Jensen', 'Barbara J Jensen', 'Babs Jensen']);
    expect(entries.every(isPerson)).toBe(true);
  });

  it('has lines that are folded (example 2)', () =>
    expect(first(FOLDED)?.attributes.get('description')).toEqual([
      'Babs is a big sailing fan, and travels extensively in search of perfect sailing conditions.',
    ]));

  it('has values in base64, folded too (example 3)', () =>
    expect(first(BASE64)?.attributes.get('description')?.[0]).toMatch(
      /^What a careful reader you are! {2}This value is base-64-encoded because .* \(a CR\)\.\r {2}By the way/,
    ));

  it('has comments, other scripts and options of attributes (example 4)', () => {
    const entry = first(UTF8);
    expect(entry?.dn).toBe('ou=営業部,o=Airius');
    expect(entry?.attributes.get('ou')).toEqual(['営業部', '営業部', 'Sales']);
    expect(entry && isPerson(entry)).toBe(false);
  });

  it('is told apart from CSV', () => {
    for (const text of [SIMPLE, UTF8, `\uFEFF${FOLDED}`, '# ours\n\ndn: uid=a,dc=b\n'])
      expect(isLdif(text)).toBe(true);
    for (const text of ['account,given,family,mail\n', '', 'dnx: a']) expect(isLdif(text)).toBe(false);
  });

  it('fetches nothing and changes nothing: what would is refused, with its line', () => {
    const { entries, faults } = parseLdif(
      'dn: uid=a,dc=b\njpegphoto:< file:///etc/passwd\n\ndn: uid=c,dc=b\nchangetype: delete\n\nuid: d\n\ndn: uid=e,dc=b\nsn:: %%%\n\ndn: uid=f,dc=b\nnothing\n\ndn: uid=g,dc=b\nsn: G\n',
    );
    expect(entries.map(({ dn }) => dn)).toEqual(['uid=g,dc=b']);
    expect(faults).toEqual([
      { line: 2, reason: 'jpegphoto stands elsewhere, which is not fetched' },
      { line: 5, reason: 'is a change, and only entries are read' },
      { line: 7, reason: 'an entry begins with its dn' },
      { line: 10, reason: 'sn is no base64' },
      { line: 13, reason: 'is no attribute and value' },
    ]);
  });

  it('brings people, as a CSV would', () => {
    const { entries } = parseLdif(
      'dn: uid=ann,dc=b\nobjectClass: inetOrgPerson\nuid: ann\ngivenName: Ann\nsn: Ashe\nmail: ann@svg.example\n\ndn: uid=bo,dc=b\nobjectClass: inetOrgPerson\nuid: bo\nsn: Brae\n',
    );
    expect(readPeople([...PEOPLE_COLUMNS], entries.map(rowOfEntry))).toEqual({
      good: [{ line: 1, account: 'ann', given: 'Ann', family: 'Ashe', mail: 'ann@svg.example' }],
      bad: [{ line: 8, reason: '"" is not a mail address' }],
    });
  });
});
