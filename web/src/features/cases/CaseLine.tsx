import { useState } from 'react'
import { useNavigate } from 'react-router'
import { toast } from 'sonner'
import { sentenceOf } from '../../api/client'
import { benchKey, tryNext } from '../bench'
import { dayOf } from '../../ui/format'
import { AcceptForm, acceptSteps } from './AcceptForm'
import { useCaseEdits, type Case, type Expected } from './useCases'
import { t } from '../../texts'

const marks = {
  passed: { sign: '✓', style: 'text-success', said: t('cases.passes') },
  failed: { sign: '≠', style: 'fault', said: t('cases.cameOutOtherwise') },
  faulty: { sign: '?', style: 'fault', said: t('cases.cannotBeAsked') },
  unknown: { sign: '…', style: 'text-warning', said: t('cases.notFoundOutInTime') },
} as const

/** One test case: how it stands, and, opened, what it picks and expects, with what came out instead. */
export function CaseLine({ one, revisionId, mayEdit }: { one: Case; revisionId: number; mayEdit: boolean }) {
  const [open, setOpen] = useState(false)
  const go = useNavigate()
  const { edit, undo } = useCaseEdits(revisionId)
  const mark = one.state ? marks[one.state] : { sign: '·', style: 'quiet', said: t('cases.isBeingAsked') }

  function remove() {
    edit.mutate([{ do: 'remove', rowId: one.id }], {
      onSuccess: (id) =>
        toast(t('cases.removed', { name: one.name }), { action: { label: t('cases.undo'), onClick: () => undo.mutate(id) }, duration: 15_000 }),
    })
  }

  return (
    <li className="border-b hair py-1">
      <button
        className="grid w-full grid-cols-[1.25rem_minmax(0,1fr)] gap-x-2 text-left hover:bg-base-200"
        aria-expanded={open}
        onClick={() => setOpen(!open)}
      >
        <span className={`text-center ${mark.style}`} role="img" aria-label={mark.said}>
          {mark.sign}
        </span>
        <span>{one.name}</span>
        {one.first && <span className="col-start-2 text-sm fault">{one.first}</span>}
      </button>
      {open && (
        <div className="mt-1 mb-2 ml-7 grid gap-3">
          {one.note && <p className="italic">{one.note}</p>}
          <div className="flex flex-wrap gap-x-4 gap-y-0.5 text-sm">
            {one.picks.length === 0 && <span className="quiet">{t('cases.nothingIsPicked')}</span>}
            {one.picks.map((p) => (
              <span key={p.path} className={p.fault ? 'fault' : ''} title={p.fault ?? undefined}>
                <span className="quiet">{p.label}</span> {p.valueLabel}
                {p.fault && ` (${p.fault})`}
              </span>
            ))}
            {one.site && <span>{t('cases.atSite', { site: one.site })}</span>}
            {one.date && <span>{t('cases.onDay', { day: dayOf(one.date) })}</span>}
            {one.quantity !== '1' && <span>{t('cases.pieces', { n: one.quantity })}</span>}
          </div>
          <table className="table-compact w-full text-sm">
            <thead>
              <tr className="quiet text-left">
                <th className="font-normal">{t('cases.whatHasToComeOut')}</th>
                <th className="text-right font-normal">{t('cases.expected')}</th>
                <th className="text-right font-normal">{t('cases.cameOut')}</th>
                <th />
              </tr>
            </thead>
            <tbody>
              {one.expected.map((e) => (
                <ExpectedLine key={e.index} e={e} one={one} revisionId={revisionId} mayEdit={mayEdit} />
              ))}
            </tbody>
          </table>
          {edit.error && <p className="fault text-sm">{sentenceOf(edit.error)}</p>}
          <div className="flex gap-4 text-sm">
            <button
              className="link"
              onClick={() => {
                tryNext(benchKey(revisionId), {
                  picks: one.picks.filter((p) => !p.fault).map((p) => ({ path: p.path, value: p.code })),
                  site: one.site,
                  date: one.date,
                  customerClass: null,
                })
                void go(`/workshop/${revisionId}`)
              }}
            >
              {t('cases.tryItOnTheBench')}
            </button>
            {mayEdit && (
              <button className="link" disabled={edit.isPending} onClick={remove}>
                {t('cases.removeThisCase')}
              </button>
            )}
          </div>
        </div>
      )}
    </li>
  )
}

function ExpectedLine({ e, one, revisionId, mayEdit }: { e: Expected; one: Case; revisionId: number; mayEdit: boolean }) {
  const [accepting, setAccepting] = useState(false)
  const { edit } = useCaseEdits(revisionId)
  const differs = e.actual !== null

  return (
    <>
      <tr className="border-t hair align-baseline">
        <td className={e.fault ? 'fault' : ''}>
          {e.subject}
          {e.fault && ` — ${e.fault}`}
          {e.because && <i className="quiet"> “{e.because}”</i>}
        </td>
        <td className="text-right whitespace-nowrap">
          {e.shown}
          {e.within && ` ± ${e.within}`}
        </td>
        <td className={`text-right whitespace-nowrap ${differs ? 'fault font-semibold' : 'quiet'}`}>
          {differs ? (e.actualShown === e.shown ? e.actual : e.actualShown) : one.state === null ? '·' : t('cases.theSame')}
        </td>
        <td className="w-20 text-right">
          {differs && mayEdit && !e.fault && (
            <button className="link" aria-expanded={accepting} onClick={() => setAccepting(!accepting)}>
              {t('cases.accept')}
            </button>
          )}
        </td>
      </tr>
      {accepting && (
        <tr>
          <td colSpan={4}>
            <AcceptForm edit={edit} stepsFor={(because) => acceptSteps(one, e, because)} onDone={() => setAccepting(false)} />
          </td>
        </tr>
      )}
    </>
  )
}
