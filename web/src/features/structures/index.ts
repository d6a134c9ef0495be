export { FullStructurePage } from './FullStructurePage'
export { ResultPage } from './ResultPage'
