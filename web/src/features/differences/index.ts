export { DifferencePage } from './DifferencePage'
