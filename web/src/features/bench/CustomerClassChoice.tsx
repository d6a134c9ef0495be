import { useLibrary } from '../library'
import type { Bench } from './useBench'
import { t } from '../../texts'

/** Whose discount is taken off the list price; nothing to choose where the library has no classes. */
export function CustomerClassChoice({ bench }: { bench: Bench }) {
  const code = bench.question.customerClass
  const classes = useLibrary().data?.customerClasses ?? []
  if (classes.length === 0 && code === null) return null
  return (
    <select
      className="select w-auto"
      aria-label={t('bench.customerClass')}
      title={t('bench.whoseDiscountIsTakenOffThe')}
      value={code ?? ''}
      onChange={(e) => bench.askFor({ customerClass: e.target.value || null })}
    >
      <option value="">{t('bench.listPrice')}</option>
      {classes.map((c) => (
        <option key={c.code} value={c.code}>
          {c.label}
        </option>
      ))}
      {code !== null && classes.every((c) => c.code !== code) && <option value={code}>{t('bench.codeWhichIsGone', { code })}</option>}
    </select>
  )
}
