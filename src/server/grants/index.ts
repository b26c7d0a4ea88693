export { offersOf, type KnownOffer } from './offers';
export { giveBackSeats, keepSeats, seatPeople } from './seats';
export { knownOf, whyFacts, type Known } from './read';
export { keptOut, listGroups, listItems, listMembers, personDetail, why } from './read';
export { outlookOf } from './outlook';
