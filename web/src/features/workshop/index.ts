export { default } from './WorkshopPage'
