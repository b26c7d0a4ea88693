import { WORK_PROFILES, type ProfileKey, type WorkProfile } from './sizes';

/** What one person of a kind of work takes at a customer, and where the figures come from. */
export interface ProfileNeed extends WorkProfile {
  /** Empty: they are the usual ones. */
  readonly source: string;
}

/** What each kind of work takes at a customer: as it was measured or said there, else as usual. */
export const needsWith = (own: readonly ProfileNeed[]): Readonly<Record<ProfileKey, ProfileNeed>> => {
  const need = (key: ProfileKey): ProfileNeed =>
    own.find((one) => one.key === key) ?? { ...WORK_PROFILES[key], source: '' };
  return {
    light: need('light'),
    standard: need('standard'),
    heavy: need('heavy'),
    graphics: need('graphics'),
  };
};
