/** A mail address as operators are known by: in small letters, composed (Unicode NFC), and compared to the last bit. */
export const normalMail = (mail: string): string => mail.trim().normalize('NFC').toLowerCase();
