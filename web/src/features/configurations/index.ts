export { ComparePage } from './ComparePage'
export { ConfigurationsPage } from './ConfigurationsPage'
export { ConfigurePage } from './ConfigurePage'
