import type { Catalogue } from './catalogue';
import type { Route } from './http';
import type { Job, Manifest } from './manifest';
import { approvalRoom } from './approval/manifest';
import { certificatesRoom } from './certificates/manifest';
import { changesRoom } from './changes/manifest';
import { claimsRoom } from './claims/manifest';
import { clockRoom } from './clock/manifest';
import { costsRoom } from './costs/manifest';
import { customersRoom } from './customers/manifest';
import { deskRoom } from './desk/manifest';
import { desktopsRoom } from './desktops/manifest';
import { directoryLinkRoom } from './directory-link/manifest';
import { environmentsRoom } from './environments/manifest';
import { grantsRoom } from './grants/manifest';
import { groundRoom } from './ground/manifest';
import { holdsRoom } from './holds/manifest';
import { hostsRoom } from './hosts/manifest';
import { imageUpkeepRoom } from './image-upkeep/manifest';
import { imagesRoom } from './images/manifest';
import { intentsRoom } from './intents/manifest';
import { lifeRoom } from './life/manifest';
import { liveRoom } from './live/manifest';
import { lookAlongRoom } from './look-along/manifest';
import { messageTextsRoom } from './message-texts/manifest';
import { meteringRoom } from './metering/manifest';
import { networksRoom } from './networks/manifest';
import { noticesRoom } from './notices/manifest';
import { operatorsRoom } from './operators/manifest';
import { orphansRoom } from './orphans/manifest';
import { overridesRoom } from './overrides/manifest';
import { parentRunsRoom } from './parent-runs/manifest';
import { peopleRoom } from './people/manifest';
import { personCostsRoom } from './person-costs/manifest';
import { plansRoom } from './plans/manifest';
import { presentRoom } from './present/manifest';
import { pricingRoom } from './pricing/manifest';
import { providersRoom } from './providers/manifest';
import { recipeSecretsRoom } from './recipe-secrets/manifest';
import { retainedRoom } from './retained/manifest';
import { runsRoom } from './runs/manifest';
import { savedStepsRoom } from './saved-steps/manifest';
import { savedViewsRoom } from './saved-views/manifest';
import { searchRoom } from './search/manifest';
import { sessionActsRoom } from './session-acts/manifest';
import { sessionsRoom } from './sessions/manifest';
import { settingsRoom } from './settings/manifest';
import { shelfRoom } from './shelf/manifest';
import { signInRoom } from './sign-in/manifest';
import { signsRoom } from './signs/manifest';
import { sitesRoom } from './sites/manifest';
import { sizingRoom } from './sizing/manifest';
import { templateFilesRoom } from './template-files/manifest';
import { templatesRoom } from './templates/manifest';
import { trailRoom } from './trail/manifest';
import { watchRoom } from './watch/manifest';
import { workerRoom } from './worker/manifest';
import { writeRoom } from './write/manifest';

/** Every room of the server that brings something. A new one is its line here. */
export const ROOMS: readonly Manifest[] = [
  signInRoom,
  watchRoom,
  searchRoom,
  savedViewsRoom,
  liveRoom,
  customersRoom,
  lifeRoom,
  certificatesRoom,
  peopleRoom,
  grantsRoom,
  hostsRoom,
  sessionActsRoom,
  personCostsRoom,
  lookAlongRoom,
  messageTextsRoom,
  deskRoom,
  directoryLinkRoom,
  approvalRoom,
  changesRoom,
  environmentsRoom,
  retainedRoom,
  runsRoom,
  parentRunsRoom,
  sessionsRoom,
  sitesRoom,
  providersRoom,
  groundRoom,
  networksRoom,
  noticesRoom,
  shelfRoom,
  orphansRoom,
  imagesRoom,
  recipeSecretsRoom,
  savedStepsRoom,
  sizingRoom,
  templateFilesRoom,
  templatesRoom,
  plansRoom,
  pricingRoom,
  operatorsRoom,
  costsRoom,
  trailRoom,
  clockRoom,
  claimsRoom,
  desktopsRoom,
  holdsRoom,
  imageUpkeepRoom,
  intentsRoom,
  meteringRoom,
  overridesRoom,
  presentRoom,
  settingsRoom,
  signsRoom,
  workerRoom,
  writeRoom,
];

/** Everything that the API serves: what each room has, and three routes for each change of the catalogue. */
export const routesOf = (catalogue: Catalogue): readonly Route[] =>
  ROOMS.flatMap(({ routes = [], routesOf: more }) => [...routes, ...(more?.(catalogue) ?? [])]);

const MINUTE = 60_000;

/** Removes what has expired, in every room; one that breaks holds up none of the others. */
const sweep: Job = {
  name: 'sweep',
  everyMs: MINUTE,
  run: async (app, { rooms }) => {
    const ends = await Promise.allSettled(
      rooms.flatMap(({ sweeps = [] }) => sweeps).map(async (one) => one(app)),
    );
    const broken = ends.find((one) => one.status === 'rejected');
    if (broken) throw broken.reason;
  },
};

export const JOBS: readonly Job[] = [...ROOMS.flatMap(({ jobs = [] }) => jobs), sweep];
