export { ImpactCell } from './ImpactCell'
export { ImpactPage } from './ImpactPage'
export { ImpactGroups } from './ImpactGroups'
export { impactInShort, useImpact } from './useImpact'
