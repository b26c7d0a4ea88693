export { money, nothing, share, sum, type Money } from './amount';
export { plain, priced, weightOf } from './exact';
