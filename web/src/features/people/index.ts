export { AuditPage } from './AuditPage'
export { PeoplePage } from './PeoplePage'
