export { ReviewLine } from './ReviewLine'
export { useReview } from './useReview'
