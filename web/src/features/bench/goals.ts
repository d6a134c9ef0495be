import type { Bench } from './useBench'
import { t } from '../../texts'

/** What completion can be asked for, each as “lowest #cost” with what it is called; empty is as suggested. */
export type Goal = readonly [goal: string, label: string]

const totals: Goal[] = [
  ['', t('bench.asSuggested')],
  ['lowest #cost', t('bench.lowestCost')],
  ['lowest #weight', t('bench.lowestWeight')],
  ['lowest #work', t('bench.leastWork')],
  ['lowest #leadTime', t('bench.shortestLeadTime')],
]
const price: Goal = ['lowest #price', t('bench.lowestPrice')]

/** The totals, and the figures that the author offers. */
function goalsOf(answer: Bench['answer']): Goal[] {
  const figures = (answer?.figures ?? []).filter((f) => f.isNumber && f.isGoal)
  return [
    ...totals,
    ...(answer?.priced ? [price] : []),
    ...figures.flatMap((f): Goal[] => {
      const figure = f.place ? `${f.place}: ${f.label}` : f.label
      return [
        [`lowest ${f.path}`, t('bench.lowestOf', { figure })],
        [`highest ${f.path}`, t('bench.highestOf', { figure })],
      ]
    }),
  ]
}

/** Those that somebody can ask for: what it costs is not for everyone. */
export const goalsFor = (answer: Bench['answer'], seesCosts: boolean): Goal[] =>
  goalsOf(answer).filter(([goal]) => seesCosts || !goal.endsWith('#cost'))

/** What something was filled in for, as people read it. */
export const filledInFor = (goal: string, answer: Bench['answer']): string =>
  goal === 'suggested'
    ? t('bench.filledInAsSuggested')
    : goal === 'kept'
      ? t('bench.keptAsItWas')
      : t('bench.filledInFor', { goal: goalsOf(answer).find(([known]) => known === goal)?.[1] ?? t('bench.theBestOfANumber') })
