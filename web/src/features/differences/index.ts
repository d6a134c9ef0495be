export { changesOf, Difference, DifferencePage, useDifference } from './DifferencePage'
