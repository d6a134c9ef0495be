export { BaselinePage } from './BaselinePage'
export { BaselinesPage } from './BaselinesPage'
