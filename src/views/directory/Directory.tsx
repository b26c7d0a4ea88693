import type { DeskIdentity, DirectoryLink as LinkData } from '../../contract';
import { DirectoryLink } from './DirectoryLink';
import { SignInAtDesk } from './SignInAtDesk';

interface Props {
  readonly code: string;
  readonly zone: string;
  readonly link: LinkData;
  readonly identity: DeskIdentity | null;
  /** Where we are reached; empty: nobody has said. */
  readonly address: string;
  readonly mayChange: boolean;
}

/** Where a customer's people come from, and with what they sign in. */
export const Directory = ({ code, zone, link, identity, address, mayChange }: Props) => (
  <DirectoryLink code={code} zone={zone} initial={link} mayChange={mayChange}>
    <SignInAtDesk code={code} initial={identity} address={address} mayChange={mayChange} />
  </DirectoryLink>
);
