export { listCards, ratesOf } from './read';
export { addRate, createCard } from './write';
