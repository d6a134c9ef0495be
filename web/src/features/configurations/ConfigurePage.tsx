import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query'
import { Redo2, Undo2 } from 'lucide-react'
import { useEffect, useMemo, useState } from 'react'
import { Link, useLocation, useNavigate, useParams, useSearchParams } from 'react-router'
import { toast } from 'sonner'
import { ask, client, sentenceOf, type Schemas } from '../../api/client'
import { newId } from '../../api/ids'
import { useRight } from '../../session/session'
import { when } from '../../ui/format'
import { useShortcut } from '../../ui/keys'
import { StateMark } from '../../ui/StateMark'
import { TitleBlock } from '../../ui/TitleBlock'
import {
  CustomerClassChoice,
  FillIn,
  Outcome,
  Clashes,
  goToAsked,
  Questions,
  sectionId,
  shownSections,
  keptQuestion,
  nothingAsked,
  useBench,
  type Bench,
  DayChoice,
  SiteChoice,
} from '../bench'
import { type Question } from '../../api/question'
import { today } from '../../ui/WhereFields'
import { UnfinishedAnswers } from './UnfinishedAnswers'
import { draftKey, draftName, forgetDraft, isDraftOf, noteDraft, whatIfKey } from './drafts'
import { KeepAsCase } from '../cases'
import { AskForConcession, ConcessionNote, useConcessions } from '../concessions'
import { AtBaseline } from './AtBaseline'
import { MovePanel } from './MovePanel'
import { WhatIfColumns } from './WhatIf'
import { t } from '../../texts'

/** The order desk's page: a new configuration of a revision, or one that was saved. */
export function ConfigurePage() {
  const { revisionId, configurationId } = useParams()
  const [params, setParams] = useSearchParams()
  const { key } = useLocation()
  const named = params.get('draft')
  // Whoever comes here without naming a draft begins a new one; the address names it once there is something in it.
  // eslint-disable-next-line react-hooks/exhaustive-deps
  const fresh = useMemo(() => newId(), [key])
  const saved = useQuery({
    queryKey: ['configuration', configurationId],
    queryFn: ({ signal }) => ask(client.GET('/api/configurations/{id}', { params: { path: { id: configurationId! } }, signal })),
    enabled: configurationId !== undefined,
    refetchOnWindowFocus: false,
  })
  const id = configurationId === undefined ? Number(revisionId) : saved.data?.revisionId
  const revision = useQuery({
    queryKey: ['revision', id],
    queryFn: ({ signal }) => ask(client.GET('/api/revisions/{id}', { params: { path: { id: id! } }, signal })),
    enabled: id !== undefined,
  })
  const error = saved.error ?? revision.error
  if (error)
    return (
      <p className="p-8">
        {sentenceOf(error)}{' '}
        <Link className="link" to="/configurations">
          {t('configurations.toTheConfigurations')}
        </Link>
      </p>
    )
  if (!revision.data || (configurationId !== undefined && !saved.data)) return <p className="quiet p-8">{t('configurations.oneMoment')}</p>
  const kept = named !== null && isDraftOf(named, id!, configurationId ?? null) ? named : null
  const draftId = kept ?? fresh
  return (
    <Configure
      key={`${configurationId ?? 'new'}.${saved.data?.version ?? 0}.${id}.${draftId}`}
      revision={revision.data}
      saved={saved.data}
      draftId={draftId}
      isKept={draftId === kept}
      show={(draft) => setParams({ draft }, { replace: true })}
    />
  )
}

const same = (a: Question, b: Question) =>
  [a, b].map((q) => JSON.stringify([q.picks, q.site, q.date, q.customerClass])).every((text, _, all) => text === all[0])

type ConfigureProps = {
  revision: Schemas['RevisionView']
  saved: Schemas['ConfigurationView'] | undefined
  draftId: string
  /** Whether the address names the draft. */
  isKept: boolean
  /** Puts a draft into the address. */
  show: (draft: string) => void
}

function Configure({ revision, saved, draftId, isKept, show }: ConfigureProps) {
  const keptAs = draftKey(draftId)
  const [start] = useState<Question>(() =>
    saved ? { picks: saved.picks, site: saved.site, date: saved.date, customerClass: saved.customerClass } : { ...nothingAsked, date: today() },
  )
  const concessions = useConcessions(saved?.id).data ?? []
  const held = concessions.find((c) => c.state === 'holds') ?? concessions.find((c) => c.state === 'usedUp')
  const wished = concessions.find((c) => c.state === 'asked')
  const [looking, setLooking] = useState(false)
  const [conceding, setConceding] = useState(false)
  const setAside = held ?? (looking ? wished : undefined)
  // A concession is for the configuration as it was saved, and for nothing that is tried out beside it.
  const isAsSaved = (q: Question) =>
    same({ ...q, site: null, date: null, customerClass: null }, { ...start, site: null, date: null, customerClass: null })
  const bench = useBench(revision.id, revision.head, keptAs, start, '', (q) =>
    setAside && isAsSaved(q) ? setAside.rules.map((r) => r.row) : undefined,
  )
  const [name, setName] = useState(() => draftName(draftId) ?? saved?.name ?? '')
  const [moving, setMoving] = useState(false)
  const [holding, setHolding] = useState(false)
  const [filling, setFilling] = useState(false)
  const [wondering, setWondering] = useState(() => keptQuestion(whatIfKey(draftId)) !== null)
  const [keeping, setKeeping] = useState(false)
  const mayConfigure = useRight('configure')
  const mayEdit = useRight('edit')
  // A test case belongs to the draft, which is asked with these picks.
  const product = useQuery({
    queryKey: ['product', revision.productId],
    queryFn: ({ signal }) => ask(client.GET('/api/products/{productId}', { params: { path: { productId: revision.productId } }, signal })),
    enabled: mayEdit && saved !== undefined,
  })
  const draftOfProduct = product.data?.state === 'draft' ? product.data.revisionId : null
  const mayGenerate = useRight('generate')
  const go = useNavigate()
  const queries = useQueryClient()
  useShortcut('mod+z', bench.undo)
  useShortcut('mod+shift+z', bench.redo)
  const [quantity, setQuantity] = useState('1')
  const [newIds] = useState(() => ({ configuration: newId(), structure: newId() }))
  const changed = saved ? name.trim() !== saved.name || !same(bench.question, start) : true
  const { site, date } = bench.question
  /** Only for another site or day than was saved: it is generated for that, the configuration stays as it is. */
  const isElsewhere =
    saved !== undefined && changed && name.trim() === saved.name && same({ ...bench.question, site: saved.site, date: saved.date }, start)
  const isDraft = saved ? changed : bench.question.picks.length > 0 || name.trim() !== ''

  useEffect(() => {
    if (isDraft) noteDraft(draftId, { revisionId: revision.id, configurationId: saved?.id ?? null, name })
    else if (!wondering) forgetDraft(draftId)
    // Once it is in the address it stays there: what was undone can be done again.
    if ((isDraft || wondering) && !isKept) show(draftId)
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [isDraft, wondering, bench.question, name])

  const { picks, customerClass } = bench.question
  const asked = { picks, site, date, customerClass }
  const save = useMutation({
    mutationFn: (asNew: boolean) =>
      saved && !asNew
        ? ask(client.PUT('/api/configurations/{id}', { params: { path: { id: saved.id } }, body: { name, ...asked, version: saved.version } }))
        : ask(client.POST('/api/configurations', { body: { id: newIds.configuration, name, revisionId: revision.id, ...asked } })),
    onSuccess: async (stored) => {
      forgetDraft(draftId)
      queries.setQueryData(['configuration', stored.id], stored)
      void queries.invalidateQueries({ queryKey: ['configurations'] })
      await go(`/configurations/${stored.id}`, { replace: !saved || stored.id === saved.id })
    },
    onError: (e) => toast.error(sentenceOf(e), { closeButton: true, duration: 15_000 }),
  })
  const generate = useMutation({
    mutationFn: () =>
      ask(
        client.POST('/api/configurations/{id}/structures', {
          params: { path: { id: saved!.id } },
          body: { id: newIds.structure, quantity, madeFor: isElsewhere ? { site, date } : null },
        }),
      ),
    onSuccess: (result) => {
      void queries.invalidateQueries({ queryKey: ['configurations'] })
      // What a concession allows is less by what was generated.
      void queries.invalidateQueries({ queryKey: ['concessions'] })
      void go(`/structures/${result.id}`)
    },
    onError: (e) => toast.error(sentenceOf(e), { closeButton: true, duration: 15_000 }),
  })
  const missing = bench.answer?.missing ?? []
  const faults = bench.answer?.faults ?? []
  const ready = bench.answer?.structure != null && faults.length === 0 && !bench.working

  return (
    <div className="flex h-full flex-col gap-3 p-4">
      <TitleBlock
        title={saved ? saved.name : t('configurations.newOf', { product: revision.document.label.en ?? revision.document.code })}
        sub={`${revision.document.code} ${revision.document.label.en ?? ''}`}
        cells={[
          {
            label: t('configurations.state'),
            room: 15,
            value: !bench.answer ? (
              '…'
            ) : bench.answer.clashes.length > 0 ? (
              <span className="fault">{t('configurations.clash')}</span>
            ) : faults.length > 0 ? (
              <span className="fault">{t('configurations.cannotBeHad', { n: faults.length })}</span>
            ) : missing.length > 0 ? (
              t('configurations.stillNeeded', { n: missing.length })
            ) : bench.question.picks.length === 0 ? (
              t('configurations.nothingAnsweredYet')
            ) : (
              t('configurations.readyToBuild')
            ),
          },
          { label: t('configurations.forTheSite'), value: <SiteChoice bench={bench} sites={revision.sites} /> },
          { label: t('configurations.onTheDay'), value: <DayChoice bench={bench} /> },
          ...(bench.answer?.priced ? [{ label: t('configurations.pricedFor'), value: <CustomerClassChoice bench={bench} /> }] : []),
          { label: t('configurations.revision3'), value: `${revision.number} ${revision.state}` },
          ...(saved && saved.author !== saved.changedBy ? [{ label: t('configurations.madeBy'), value: saved.author }] : []),
          ...(saved
            ? [
                {
                  label: t('configurations.saved2'),
                  value: t('configurations.changedAtByChangedBy', { changedAt: when(saved.changedAt), changedBy: saved.changedBy }),
                },
              ]
            : []),
        ]}
        actions={
          <>
            <button
              className="btn btn-ghost btn-sm"
              aria-label={t('configurations.undo')}
              title={t('configurations.undoCtrlZ')}
              disabled={!bench.canUndo}
              onClick={bench.undo}
            >
              <Undo2 className="size-4" />
            </button>
            <button
              className="btn btn-ghost btn-sm"
              aria-label={t('configurations.redo')}
              title={t('configurations.redoCtrlShiftZ')}
              disabled={!bench.canRedo}
              onClick={bench.redo}
            >
              <Redo2 className="size-4" />
            </button>
            {mayConfigure && (
              <form
                className="flex gap-1.5"
                onSubmit={(e) => {
                  e.preventDefault()
                  save.mutate(false)
                }}
              >
                <input
                  className="input w-40"
                  aria-label={t('configurations.nameOfTheConfiguration')}
                  placeholder={t('configurations.nameSuchAsTheOrder')}
                  required
                  maxLength={200}
                  value={name}
                  onChange={(e) => setName(e.target.value)}
                />
                <button className="btn" disabled={save.isPending || !changed || name.trim() === ''}>
                  {saved ? (changed ? t('configurations.saveChanges') : t('configurations.saved')) : t('configurations.save')}
                </button>
                {saved && changed && (
                  <button
                    type="button"
                    className="btn"
                    disabled={save.isPending || name.trim() === '' || name.trim() === saved.name}
                    title={name.trim() === saved.name ? t('configurations.giveItAnotherNameFirst') : t('configurations.theOneThatWasSavedStays')}
                    onClick={() => save.mutate(true)}
                  >
                    {t('configurations.saveAsNew')}
                  </button>
                )}
              </form>
            )}
            {mayGenerate && saved && (
              <input
                className="input w-14 text-right"
                aria-label={t('configurations.quantityToGenerateFor')}
                title={t('configurations.howManyAreOrdered')}
                inputMode="numeric"
                value={quantity}
                onChange={(e) => setQuantity(e.target.value)}
              />
            )}
            {mayGenerate && saved && (
              <button
                className="btn btn-primary"
                disabled={!ready || (changed && !isElsewhere) || generate.isPending || revision.state !== 'released'}
                title={
                  revision.state !== 'released'
                    ? t('configurations.onlyOnAReleasedRevision')
                    : isElsewhere
                      ? t('configurations.forThisSiteAndDay')
                      : changed
                        ? mayConfigure
                          ? t('configurations.saveTheChangesFirst')
                          : t('configurations.theAnswersAreNotYours')
                        : undefined
                }
                onClick={() => generate.mutate()}
              >
                {t('configurations.generateStructure')}
              </button>
            )}
          </>
        }
      />
      {saved?.newerRevisionId != null && (
        <p className="border-l-2 border-primary px-3 py-1">
          {t('configurations.revision2')} {saved.newerNumber} {t('configurations.hasBeenReleasedSince')}{' '}
          {mayConfigure && (
            <button className="link" onClick={() => setMoving(true)}>
              {t('configurations.seeWhatMovingThereChanges')}
            </button>
          )}
        </p>
      )}
      {held && (
        <ConcessionNote
          concession={held}
          isOfThis={isAsSaved(bench.question)}
          onAskAgain={mayConfigure && held.state === 'usedUp' && !wished ? () => setConceding(true) : undefined}
        />
      )}
      {wished && (
        <ConcessionNote
          concession={wished}
          isOfThis={isAsSaved(bench.question)}
          look={held ? undefined : { isShown: looking, toggle: () => setLooking(!looking) }}
        />
      )}
      {bench.error && <p className="fault">{sentenceOf(bench.error)}</p>}
      <UnfinishedAnswers revisionId={revision.id} configurationId={saved?.id ?? null} present={draftId} goOn={show} />
      {wondering ? (
        <WhatIfColumns revisionId={revision.id} head={revision.head} keptAs={whatIfKey(draftId)} bench={bench} onClose={() => setWondering(false)} />
      ) : (
        /* Beside one another where there is room, otherwise one below the other, each as long as it is. */
        <div className="flex min-h-0 flex-1 flex-col gap-4 overflow-auto lg:grid lg:grid-cols-[9rem_minmax(26rem,1.1fr)_minmax(24rem,1fr)] lg:overflow-hidden">
          <Progress bench={bench} />
          <div className="shrink-0 lg:min-h-0 lg:shrink lg:overflow-auto lg:pr-2">
            <div className="mb-1 flex justify-end gap-1">
              <button className="btn btn-ghost btn-sm" disabled={!bench.answer || bench.working} onClick={() => setWondering(true)}>
                {t('configurations.whatIfEllipsis')}
              </button>
              {draftOfProduct !== null && (
                <button className="btn btn-ghost btn-sm" disabled={!bench.answer || bench.working} onClick={() => setKeeping(true)}>
                  {t('configurations.asATestCaseEllipsis')}
                </button>
              )}
              {saved && (
                <button className="btn btn-ghost btn-sm" onClick={() => setHolding(true)}>
                  {t('configurations.atABaselineEllipsis')}
                </button>
              )}
              <button className="btn btn-ghost btn-sm" aria-expanded={filling} disabled={!bench.answer?.valid} onClick={() => setFilling(!filling)}>
                {t('configurations.fillInWhatIsOpen')}
              </button>
            </div>
            {filling && <FillIn revisionId={revision.id} bench={bench} onClose={() => setFilling(false)} />}
            <Clashes bench={bench} revisionId={revision.id} />
            {mayConfigure && revision.state === 'released' && (bench.answer?.clashes.length ?? 0) > 0 && !wished && (
              <p className="quiet mb-2 text-sm">
                {t('configurations.orAllTheSame')}{' '}
                {saved && !changed ? (
                  <button className="link" onClick={() => setConceding(true)}>
                    {t('configurations.askForAConcession')}
                  </button>
                ) : (
                  t('configurations.saveItForAConcession')
                )}
              </p>
            )}
            <Questions bench={bench} revisionId={revision.id} />
          </div>
          <div className="shrink-0 border hair lg:min-h-0 lg:shrink">
            <Outcome revisionId={revision.id} bench={bench} />
          </div>
        </div>
      )}
      {conceding && saved && (
        <AskForConcession
          revisionId={revision.id}
          configuration={saved}
          bench={bench}
          again={held?.rules.map((r) => ({ ...r, rowId: r.row }))}
          onClose={() => setConceding(false)}
        />
      )}
      {keeping && draftOfProduct !== null && (
        <KeepAsCase revisionId={draftOfProduct} modelId={revision.document.id} bench={bench} onClose={() => setKeeping(false)} />
      )}
      {holding && saved && <AtBaseline configuration={saved} onClose={() => setHolding(false)} />}
      {moving && saved && <MovePanel configuration={saved} onClose={() => setMoving(false)} />}
    </div>
  )
}

/** The sections with what is still open in each. */
function Progress({ bench }: { bench: Bench }) {
  const sections = shownSections(bench.answer)
  return (
    <nav
      aria-label={t('configurations.sections')}
      className="sticky top-0 z-10 flex shrink-0 flex-wrap content-start gap-x-3 gap-y-1 border-b hair bg-base-100 pb-1 lg:static lg:z-auto lg:shrink lg:flex-col lg:flex-nowrap lg:overflow-auto lg:border-0"
    >
      {sections.map((s) => {
        const needed = s.asked.filter((a) => a.missing)
        const clash = s.asked.find((a) => a.state === 'clash')
        const picked = s.asked.filter((a) => a.state === 'picked').length
        return (
          <button
            key={s.id}
            className="flex items-center gap-1.5 text-left hover:text-primary"
            onClick={() => (needed[0] ? goToAsked(needed[0].path) : document.getElementById(sectionId(s))?.scrollIntoView({ block: 'start' }))}
          >
            <StateMark state={clash ? 'clash' : needed.length > 0 ? 'needed' : picked > 0 ? 'picked' : 'suggested'} clash={clash?.clash} />
            <span className="min-w-0 leading-tight">
              {s.place && s.place !== s.title && !s.place.startsWith(`${s.title} `) ? <span className="quiet">{s.place} · </span> : null}
              {s.place?.startsWith(`${s.title} `) ? s.place : s.title}
              {needed.length > 0 && <span className="fault"> {t('configurations.needed', { n: needed.length })}</span>}
            </span>
          </button>
        )
      })}
    </nav>
  )
}
