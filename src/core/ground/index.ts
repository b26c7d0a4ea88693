export {
  GROUND_CHANGES,
  isWorse,
  priceChanges,
  siteChanges,
  type GroundChange,
  type GroundChangeKind,
  type PriceChange,
  type ReadNode,
  type SiteReading,
} from './changes';
