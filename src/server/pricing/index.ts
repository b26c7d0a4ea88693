export { listCards, ratesOf, type CardRow } from './read';
export { addRate, createCard, type NewCard } from './write';
