import { identity } from '../../core/text';

/** A mail address as operators are known by, without blanks around it. */
export const normalMail = (mail: string): string => identity(mail.trim());
