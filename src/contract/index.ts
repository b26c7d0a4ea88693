export * from './bar';
export * from './approval';
export * from './certificates';
export * from './shape';
export * from './endpoint';
export * from './common';
export * from './changes';
export * from './clock';
export * from './costs';
export * from './customers';
export * from './desk';
export * from './directory';
export * from './environments';
export * from './grants';
export * from './ground';
export * from './holds';
export * from './hosts';
export * from './images';
export * from './life';
export * from './look-along';
export * from './networks';
export * from './message-texts';
export * from './notices';
export * from './operators';
export * from './orphans';
export * from './parent-runs';
export * from './people';
export * from './person-costs';
export * from './plans';
export * from './pricing';
export * from './providers';
export * from './tries';
export * from './recipe-secrets';
export * from './retained';
export * from './roles';
export * from './runs';
export * from './saved-steps';
export * from './saved-views';
export * from './session-acts';
export * from './sessions';
export * from './shelf';
export * from './sign-in';
export * from './sites';
export * from './sizing';
export * from './templates';
export * from './trail';
export * from './watch';

import type { approvalEndpoints } from './approval';
import type { certificateEndpoints } from './certificates';
import type { factsEndpoints } from './changes';
import type { clockEndpoints } from './clock';
import type { costEndpoints } from './costs';
import type { customerEndpoints } from './customers';
import type { deskEndpoints } from './desk';
import type { directoryEndpoints } from './directory';
import type { environmentEndpoints } from './environments';
import type { groundEndpoints } from './ground';
import type { holdEndpoints } from './holds';
import type { hostEndpoints } from './hosts';
import type { imageEndpoints } from './images';
import type { lifeEndpoints } from './life';
import type { networkEndpoints } from './networks';
import type { messageTextEndpoints } from './message-texts';
import type { noticeEndpoints } from './notices';
import type { operatorEndpoints } from './operators';
import type { orphanEndpoints } from './orphans';
import type { retainedEndpoints } from './retained';
import type { grantEndpoints } from './grants';
import type { personCostEndpoints } from './person-costs';
import type { peopleEndpoints } from './people';
import type { planEndpoints } from './plans';
import type { pricingEndpoints } from './pricing';
import type { providerEndpoints } from './providers';
import type { recipeSecretEndpoints } from './recipe-secrets';
import type { runEndpoints } from './runs';
import type { parentRunEndpoints } from './parent-runs';
import type { savedStepsEndpoints } from './saved-steps';
import type { savedViewEndpoints } from './saved-views';
import type { lookAlongEndpoints } from './look-along';
import type { sessionActEndpoints } from './session-acts';
import type { sessionEndpoints } from './sessions';
import type { shelfEndpoints } from './shelf';
import type { signInEndpoints } from './sign-in';
import type { siteEndpoints } from './sites';
import type { sizingEndpoints } from './sizing';
import type { templateEndpoints } from './templates';
import type { trailEndpoints } from './trail';
import type { watchEndpoints } from './watch';

type In<Area> = Area[keyof Area];

/** Every way into the API but the changes', which derive from their list: for whoever calls it by path. */
export type Endpoints =
  | In<typeof approvalEndpoints>
  | In<typeof certificateEndpoints>
  | In<typeof clockEndpoints>
  | In<typeof costEndpoints>
  | In<typeof customerEndpoints>
  | In<typeof deskEndpoints>
  | In<typeof directoryEndpoints>
  | In<typeof environmentEndpoints>
  | In<typeof factsEndpoints>
  | In<typeof groundEndpoints>
  | In<typeof holdEndpoints>
  | In<typeof imageEndpoints>
  | In<typeof lifeEndpoints>
  | In<typeof networkEndpoints>
  | In<typeof messageTextEndpoints>
  | In<typeof noticeEndpoints>
  | In<typeof operatorEndpoints>
  | In<typeof orphanEndpoints>
  | In<typeof retainedEndpoints>
  | In<typeof peopleEndpoints>
  | In<typeof personCostEndpoints>
  | In<typeof grantEndpoints>
  | In<typeof hostEndpoints>
  | In<typeof planEndpoints>
  | In<typeof pricingEndpoints>
  | In<typeof providerEndpoints>
  | In<typeof recipeSecretEndpoints>
  | In<typeof runEndpoints>
  | In<typeof parentRunEndpoints>
  | In<typeof savedStepsEndpoints>
  | In<typeof savedViewEndpoints>
  | In<typeof sessionActEndpoints>
  | In<typeof lookAlongEndpoints>
  | In<typeof sessionEndpoints>
  | In<typeof shelfEndpoints>
  | In<typeof signInEndpoints>
  | In<typeof siteEndpoints>
  | In<typeof sizingEndpoints>
  | In<typeof templateEndpoints>
  | In<typeof trailEndpoints>
  | In<typeof watchEndpoints>;
