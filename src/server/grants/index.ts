export { offersOf, type KnownOffer } from './offers';
export { keepSeats, seatPeople } from './seats';
export { keptOut, listGroups, listItems, listMembers, personDetail, why } from './read';
export { outlookOf } from './outlook';
