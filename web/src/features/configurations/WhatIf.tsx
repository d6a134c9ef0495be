import { useEffect, useState } from 'react'
import { sentenceOf } from '../../api/client'
import { money, signedMoney } from '../../ui/format'
import { allThatStands, Clashes, Questions, useBench, useWhatIf, type Bench, type WhatIf } from '../bench'
import { t } from '../../texts'

type Props = { revisionId: number; head: number; keptAs: string; bench: Bench; onClose: () => void }

/** What would be if: the same questions a second time beside the present ones, with what differs between the two. */
export function WhatIfColumns({ revisionId, head, keptAs, bench, onClose }: Props) {
  const [start] = useState(() => ({ ...bench.question, picks: allThatStands(bench) }))
  const other = useBench(revisionId, head, keptAs, start, 'if-')
  const { site, date, customerClass } = bench.question
  const { askFor } = other
  // Both are for the same site, day and customers.
  useEffect(() => {
    if (other.question.site !== site || other.question.date !== date || other.question.customerClass !== customerClass)
      askFor({ site, date, customerClass })
  }, [site, date, customerClass, other.question, askFor])
  const difference = useWhatIf(revisionId, head, bench.question, other.question.picks, { isWanted: !bench.working && !other.working })

  function close() {
    localStorage.removeItem(keptAs)
    onClose()
  }

  return (
    <div className="flex min-h-0 flex-1 flex-col gap-2">
      {difference.error && <p className="fault">{sentenceOf(difference.error)}</p>}
      <div className="grid min-h-0 flex-1 grid-cols-2 gap-4">
        <section aria-label={t('configurations.asItIs')} className="min-h-0 overflow-auto pr-2">
          <Head title={t('configurations.asItIs')} side={difference.data?.now} />
          <Clashes bench={bench} revisionId={revisionId} />
          <Questions bench={bench} revisionId={revisionId} />
        </section>
        <section aria-label={t('configurations.whatIf')} className="min-h-0 overflow-auto border-l hair pl-3">
          <Head title={t('configurations.whatIf')} side={difference.data?.then} difference={difference.data?.difference}>
            <button
              className="btn btn-primary btn-sm"
              onClick={() => {
                bench.change(() => other.question.picks)
                close()
              }}
            >
              {t('configurations.takeThisOver')}
            </button>
            <button className="btn btn-sm" onClick={close}>
              {t('configurations.leaveItAsItIs')}
            </button>
          </Head>
          <Clashes bench={other} revisionId={revisionId} />
          <Questions bench={other} revisionId={revisionId} />
        </section>
      </div>
      <Differences of={difference.data} />
    </div>
  )
}

function Head({
  title,
  side,
  difference,
  children,
}: {
  title: string
  side: WhatIf['now'] | undefined
  difference?: string | null | undefined
  children?: React.ReactNode
}) {
  return (
    <div className="sticky top-0 z-10 mb-1 flex min-h-9 flex-wrap items-center gap-x-3 gap-y-1 border-b-2 border-base-content/60 bg-base-100 pb-0.5">
      <h2 className="font-semibold">{title}</h2>
      {side?.price && <span>{t('configurations.priceEUR', { price: money(side.price.each) })}</span>}
      {difference != null && (
        <b>
          {Number(difference) === 0 ? t('configurations.theSamePrice') : t('configurations.differenceEUR', { difference: signedMoney(difference) })}
        </b>
      )}
      {side && !side.price && side.hindrances[0] && <span className="quiet truncate text-sm">{side.hindrances[0]}</span>}
      {children && <span className="ml-auto flex gap-1.5">{children}</span>}
    </div>
  )
}

/** What is spoken of first stands first; figures on the way to it come last. */
const order = ['attribute', 'total', 'part', 'operation', 'figure']
const inOrder = (changes: WhatIf['changes']) => [...changes].sort((a, b) => order.indexOf(a.kind) - order.indexOf(b.kind))

/** All that is different between the two, by kind. */
function Differences({ of }: { of: WhatIf | undefined }) {
  if (!of) return <p className="quiet text-sm">{t('configurations.comparing')}</p>
  if (of.changes.length === 0) return <p className="quiet text-sm">{t('configurations.nothingDiffersYet')}</p>
  return (
    <section aria-label={t('configurations.whatDiffers')} className="max-h-[30%] shrink-0 overflow-auto border-t hair">
      <table className="w-full text-sm">
        <thead className="quiet sticky top-0 bg-base-100 text-left">
          <tr className="border-b hair [&>th]:py-0.5 [&>th]:pr-3 [&>th]:font-normal [&>th]:italic">
            <th className="w-24">{t('configurations.kind')}</th>
            <th>{t('configurations.what')}</th>
            <th className="w-1/4">{t('configurations.asItIs')}</th>
            <th className="w-1/4">{t('configurations.whatIf')}</th>
          </tr>
        </thead>
        <tbody>
          {inOrder(of.changes).map((c, i) => (
            <tr key={i} className="border-b hair align-baseline [&>td]:py-0.5 [&>td]:pr-3">
              <td className="quiet italic">{c.kind}</td>
              <td>{c.name}</td>
              <td>{c.before || '–'}</td>
              <td>{c.after || '–'}</td>
            </tr>
          ))}
        </tbody>
      </table>
    </section>
  )
}
