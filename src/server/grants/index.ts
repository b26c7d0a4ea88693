export { offersOf, type KnownOffer } from './offers';
export { giveBackSeats, keepSeats, seatHolders, seatPeople } from './seats';
export { itemOf, knownOf, whyFacts, type Known } from './read';
export { keptOut, listGroups, listItems, listMembers, personDetail, why } from './read';
export { offeredPlaces, publishedIn } from './published';
export { grantFile, readGrantFile } from './file';
export { deskRules, keepDeskRules } from './rules';
export { outlookOf } from './outlook';
