import { useMutation, useQueryClient } from '@tanstack/react-query'
import { useState } from 'react'
import { Link, useNavigate } from 'react-router'
import { ask, client, sentenceOf } from '../../api/client'
import { useRight } from '../../session/session'
import { moment } from '../../ui/format'
import { ReasonForm } from '../../ui/ReasonForm'
import { RevisionPage, useRevisionHere } from '../../ui/RevisionPage'
import { ReasonText, benchKey, tryNext } from '../bench'
import { DayField, today } from '../../ui/WhereFields'
import { Measures } from './Measures'
import { HealthDay, healthKey, inShort, useHealth, useHealthDay, type Health, type HealthFinding } from './useHealth'
import { t } from '../../texts'

const groups = [
  ['error', t('health.errors')],
  ['warning', t('health.warnings')],
  ['note', t('health.notes')],
] as const

/** All that analysis finds in a revision, each with its proof and the way to its row. */
export function HealthPage() {
  const here = useRevisionHere()
  const { revisionId } = here
  const [chosen, setChosen] = useState<string | null>(null)
  const day = chosen ?? today()
  const health = useHealth(revisionId, here.revision.data?.head, day)
  const findings = health.data?.findings ?? []
  const accepted = findings.filter((f) => f.accepted !== null)
  return (
    <RevisionPage
      {...here}
      title={t('health.health')}
      cells={[
        { label: t('health.onTheDay'), value: <DayField date={day} onChange={setChosen} /> },
        { label: t('health.found'), value: inShort(health.data) },
      ]}
    >
      {({ head }) => (
        <HealthDay value={day}>
          {health.error && <p className="fault">{sentenceOf(health.error)}</p>}
          {health.data?.running && <Progress health={health.data} />}
          {health.data && !health.data.running && findings.length === 0 && health.data.unfinished.length === 0 && (
            <p>{t('health.nothingWasFoundEveryValueCan')}</p>
          )}
          {health.data?.unfinished.map((u) => (
            <p key={u} className="quiet italic">
              {u}
            </p>
          ))}
          <div className="max-w-4xl">
            {groups.map(([weight, title]) => {
              const open = findings.filter((f) => f.weight === weight && f.accepted === null)
              return (
                open.length > 0 && (
                  <section key={weight} aria-label={title} className="mb-5">
                    <h2 className="border-b hair pb-0.5 font-semibold">{title}</h2>
                    <ul>
                      {open.map((f) => (
                        <Found key={f.key} finding={f} revisionId={revisionId} head={head} />
                      ))}
                    </ul>
                  </section>
                )
              )
            })}
            {accepted.length > 0 && (
              <section aria-label={t('health.accepted')} className="mb-5">
                <h2 className="border-b hair pb-0.5 font-semibold">{t('health.accepted')}</h2>
                <ul>
                  {accepted.map((f) => (
                    <Found key={f.key} finding={f} revisionId={revisionId} head={head} />
                  ))}
                </ul>
              </section>
            )}
            <Measures revisionId={revisionId} head={head} />
          </div>
        </HealthDay>
      )}
    </RevisionPage>
  )
}

function Progress({ health }: { health: Health }) {
  const share = health.total > 0 ? health.done / health.total : 0
  return (
    <div className="grid max-w-4xl gap-1">
      <div
        role="progressbar"
        aria-label={t('health.analysis')}
        aria-valuemin={0}
        aria-valuemax={100}
        aria-valuenow={Math.floor(share * 100)}
        className="h-1.5 border hair"
      >
        <div className="h-full bg-primary" style={{ width: `${share * 100}%` }} />
      </div>
      <p className="quiet text-sm">
        {health.total > 0 ? t('health.doneOfTotalQuestions', { done: health.done, total: health.total }) : t('health.findingOutWhichValuesCanBe')}
      </p>
    </div>
  )
}

function Found({ finding, revisionId, head }: { finding: HealthFinding; revisionId: number; head: number }) {
  const [open, setOpen] = useState<'proof' | 'accept' | null>(null)
  const day = useHealthDay()
  const mayEdit = useRight('edit')
  const go = useNavigate()
  const place = finding.assemblyId
    ? `/workshop/${revisionId}?assembly=${encodeURIComponent(finding.assemblyId)}&row=${encodeURIComponent(finding.rowId)}`
    : `/workshop/${revisionId}?list=${encodeURIComponent(finding.rowId)}`
  const hasProof = finding.example !== null || (finding.causes !== null && finding.causes.length > 0)
  const toggle = (what: 'proof' | 'accept') => setOpen((now) => (now === what ? null : what))
  return (
    <li className="border-b hair py-1.5">
      <div className="grid grid-cols-[9rem_minmax(0,1fr)_auto] items-baseline gap-3">
        <Link className="link truncate" to={place}>
          {finding.mark || finding.name}
        </Link>
        <p className={finding.accepted ? 'quiet' : ''}>{finding.sentence}</p>
        <span className="flex items-baseline gap-2 text-sm">
          {hasProof && (
            <button className="link" aria-expanded={open === 'proof'} onClick={() => toggle('proof')}>
              {finding.example !== null ? t('health.example') : t('health.why')}
            </button>
          )}
          {mayEdit && !finding.accepted && (
            <button className="link" aria-expanded={open === 'accept'} onClick={() => toggle('accept')}>
              {t('health.accept')}
            </button>
          )}
          {finding.accepted && mayEdit && <TakeBack finding={finding} revisionId={revisionId} head={head} />}
        </span>
      </div>
      {finding.accepted && (
        <p className="quiet ml-39 text-sm italic">
          “{finding.accepted.reason}”, {finding.accepted.person}, {moment(finding.accepted.at)}
        </p>
      )}
      {open === 'proof' && (
        <div className="mt-1 ml-39 border-l-2 border-primary bg-base-200 px-3 py-2 text-sm">
          {finding.example !== null ? (
            <>
              <p className="quiet mb-1 italic">{t('health.itShowsWith')}</p>
              <ul className="grid gap-x-6 sm:grid-cols-2">
                {finding.example.map((p) => (
                  <li key={p.path} className="flex justify-between gap-2 border-b hair py-px">
                    <span className="quiet">{p.label}</span>
                    <span className="text-right">{p.valueLabel}</span>
                  </li>
                ))}
              </ul>
              <button
                className="link mt-2"
                onClick={() => {
                  // It was found for this day; on another one other rows may hold.
                  tryNext(benchKey(revisionId), {
                    picks: finding.example!.map((p) => ({ path: p.path, value: p.value })),
                    site: null,
                    date: day,
                    customerClass: null,
                  })
                  void go(place)
                }}
              >
                {t('health.tryItOnTheBench')}
              </button>
            </>
          ) : (
            <ReasonText
              reason={{ sentence: '', picks: [], causes: finding.causes ?? [] }}
              goTo={(assemblyId, rowId) =>
                void go(`/workshop/${revisionId}?assembly=${encodeURIComponent(assemblyId)}&row=${encodeURIComponent(rowId)}`)
              }
            />
          )}
        </div>
      )}
      {open === 'accept' && <AcceptForm finding={finding} revisionId={revisionId} head={head} onDone={() => setOpen(null)} />}
    </li>
  )
}

function useAcceptance(revisionId: number, head: number) {
  const day = useHealthDay()
  const queries = useQueryClient()
  return useMutation({
    mutationFn: (body: { key: string; reason: string | null }) =>
      ask(client.POST('/api/revisions/{id}/health/accepted', { params: { path: { id: revisionId }, query: { date: day } }, body })),
    onSuccess: (health) => queries.setQueryData(healthKey(revisionId, head, day), health),
  })
}

function AcceptForm({ finding, revisionId, head, onDone }: { finding: HealthFinding; revisionId: number; head: number; onDone: () => void }) {
  const accept = useAcceptance(revisionId, head)
  return (
    <ReasonForm
      className="mt-1 ml-39"
      label={t('health.whyItMayStayAsIt')}
      send={t('health.accept2')}
      isPending={accept.isPending}
      error={accept.error}
      onSend={(reason) => accept.mutate({ key: finding.key, reason }, { onSuccess: onDone })}
    />
  )
}

function TakeBack({ finding, revisionId, head }: { finding: HealthFinding; revisionId: number; head: number }) {
  const accept = useAcceptance(revisionId, head)
  return (
    <button className="link" disabled={accept.isPending} onClick={() => accept.mutate({ key: finding.key, reason: null })}>
      {t('health.takeBack')}
    </button>
  )
}
