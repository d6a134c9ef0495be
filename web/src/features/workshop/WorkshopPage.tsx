import { useMutation } from '@tanstack/react-query'
import { Eye, EyeOff, History, Maximize2, Minimize2, Redo2, Undo2 } from 'lucide-react'
import { useEffect, useState } from 'react'
import { Link, useNavigate, useParams, useSearchParams } from 'react-router'
import { ask, client, sentenceOf } from '../../api/client'
import { useRight } from '../../session/session'
import { clock, inEnglish, when } from '../../ui/format'
import { useShortcut } from '../../ui/keys'
import { TitleBlock } from '../../ui/TitleBlock'
import { useStable } from '../../ui/useStable'
import { benchKey, tryNext, useBench } from '../bench'
import { useLibrary } from '../library'
import { CasesCell } from '../cases'
import { ImpactCell } from '../impact'
import { CountCell, inShort, needsAttention, useHealth } from '../health'
import { HistorySheet } from './HistorySheet'
import { allRows, assemblyOf, isRule, listOf, nameOf, placeOf, type Kind } from './model'
import { Outline } from './Outline'
import { Refusals } from './Refusals'
import { ReleaseSheet } from './ReleaseSheet'
import { ReviewLine, useReview } from '../reviews'
import { PresentMark } from './PresentMark'
import { others, usePresence } from './usePresence'
import { rowElementId } from './rows/RowLine'
import { UsesSheet } from './rows/UsesSheet'
import { useModel, type Stored } from './useModel'
import { WorkshopContext, type Workshop } from './Workshop'
import { WorkshopBench } from './WorkshopBench'
import { WorkshopColumns } from './WorkshopColumns'
import { WorksheetPane } from './WorksheetPane'
import { t } from '../../texts'

export default function WorkshopPage() {
  const { revisionId } = useParams()
  return <OfRevision key={revisionId} revisionId={Number(revisionId)} />
}

function OfRevision({ revisionId }: { revisionId: number }) {
  const model = useModel(revisionId)
  const { revision } = model
  const bench = useBench(revisionId, revision?.head, benchKey(revisionId))
  const health = useHealth(revisionId, revision?.head)
  const library = useLibrary()
  const [address, setAddress] = useSearchParams()
  const [language, setLanguage] = useState('en')
  const [sheet, setSheet] = useState<'history' | 'release' | null>(address.has('release') ? 'release' : null)
  const [benchAs, setBenchAs] = useState<'beside' | 'alone' | 'hidden'>('beside')
  const [renaming, setRenaming] = useState<{ rowId: string } | null>(null)
  const [uses, setUses] = useState<{ id: string; name: string } | null>(null)
  const benchShown = benchAs !== 'hidden'
  const mayEditModels = useRight('edit')
  const go = useNavigate()
  const next = useMutation({
    mutationFn: () => ask(client.POST('/api/products/{productId}/revisions', { params: { path: { productId: revision!.productId } } })),
    onSuccess: (made) => {
      // What is tried out goes along.
      if (bench.picks.length > 0) tryNext(benchKey(made.revisionId), bench.question)
      return go(`/workshop/${made.revisionId}`)
    },
  })
  const mayEdit = mayEditModels && revision?.state === 'draft'
  const review = useReview(revisionId)
  useShortcut('mod+z', () => mayEdit && model.undo())
  useShortcut('mod+shift+z', () => mayEdit && model.redo())
  useShortcut('mod+y', () => mayEdit && model.redo())

  const goes = useStable({
    goToAssembly: (id: string) => setAddress({ assembly: id }),
    goToList: (id: string) => setAddress({ list: id }),
    showUses: (id: string, name: string) => setUses({ id, name }),
    goToRow: (assemblyId: string, rowId: string | null, atName?: boolean) => {
      setRenaming(atName && rowId ? { rowId } : null)
      // A reason on the bench leads to its row, which has to be there to be seen.
      setBenchAs((now) => (now === 'alone' ? 'beside' : now))
      setAddress(rowId ? { assembly: assemblyId, row: rowId } : { assembly: assemblyId })
    },
  })
  const openRow = address.get('row')
  const page = usePresence(revisionId, openRow)
  useEffect(() => {
    if (openRow) document.getElementById(rowElementId(openRow))?.scrollIntoView({ block: 'nearest' })
  }, [openRow])

  if (model.error && !revision)
    return (
      <p className="p-8">
        {sentenceOf(model.error)}{' '}
        <Link className="link" to="/products">
          {t('workshop.toTheProducts')}
        </Link>
      </p>
    )
  if (!revision) return <p className="quiet p-8">{t('workshop.oneMoment')}</p>

  const doc = revision.document
  const listId = address.get('list')
  const list = listId === null ? undefined : listOf(doc, listId)
  // A row by itself is enough of an address.
  const assembly = assemblyOf(doc, address.get('assembly')) ?? (openRow ? placeOf(doc, openRow)?.assembly : undefined) ?? assemblyOf(doc, doc.root)
  const kind = address.get('kind') as Kind | null
  const workshop: Workshop = {
    revisionId,
    document: doc,
    findings: revision.findings,
    health: (health.data?.findings ?? []).filter(needsAttention),
    model,
    bench,
    library: library.data,
    present: others(model.here, page),
    mayEdit,
    language,
    ...goes,
    renaming,
  }
  const rows = allRows(doc)
  const blocking = revision.findings.filter((f) => f.blocks).length

  return (
    <WorkshopContext value={workshop}>
      <div className="flex h-full flex-col gap-2 p-3">
        <TitleBlock
          title={inEnglish(doc.label) || doc.code}
          sub={
            <>
              <Link className="link" to={`/products/${revision.productId}`}>
                {doc.code}
              </Link>
              {list
                ? t('workshop.valueListName2', { name: list.name })
                : assembly && assembly.id !== doc.root
                  ? ` · ${inEnglish(assembly.label) || assembly.name}`
                  : ''}
            </>
          }
          place={list ? t('workshop.valueListName', { name: list.name }) : assembly && (inEnglish(assembly.label) || assembly.name)}
          cells={[
            { label: t('workshop.revision'), value: `${revision.number} ${revision.state}`, room: 9 },
            {
              label: 'faults',
              value: blocking > 0 ? <span className="fault font-semibold">{blocking}</span> : <span className="quiet">{t('workshop.none')}</span>,
              room: 4,
            },
            {
              label: 'health',
              room: 15,
              value: (
                <Link className="link" to={`/workshop/${revisionId}/health`}>
                  {inShort(health.data)}
                </Link>
              ),
            },
            { label: t('workshop.testCases'), value: <CasesCell revisionId={revisionId} head={revision.head} />, room: 11 },
            { label: t('workshop.impact'), value: <ImpactCell revisionId={revisionId} head={revision.head} />, room: 18 },
            { label: t('workshop.configurations'), value: <CountCell revisionId={revisionId} head={revision.head} />, room: 13 },
            {
              label: 'structure',
              value: (
                <Link className="link" to={`/workshop/${revisionId}/structure`}>
                  {t('workshop.allLines')}
                </Link>
              ),
            },
            {
              label: t('workshop.changed'),
              value: t('workshop.changedAtByAuthor', { changedAt: when(revision.changedAt), author: revision.author }),
              room: 16,
            },
            {
              label: 'rules',
              value: t('workshop.rulesOfRows', { rules: rows.filter(isRule).length, rows: rows.length }),
              room: 14,
            },
          ]}
          actions={
            <>
              <span className="flex gap-0.5">
                {others(model.here, page).map((p) => (
                  <PresentMark key={p.page} who={p} {...(p.rowId && { where: nameOf(placeOf(doc, p.rowId)?.row) })} />
                ))}
              </span>
              <StoredMark stored={model.stored} />
              {mayEdit && (
                <>
                  <button
                    className="btn btn-ghost btn-sm"
                    aria-label={t('workshop.undo')}
                    title={t('workshop.undoYourLastEditCtrlZ')}
                    onClick={() => model.undo()}
                  >
                    <Undo2 className="size-4" />
                  </button>
                  <button
                    className="btn btn-ghost btn-sm"
                    aria-label={t('workshop.redo')}
                    title={t('workshop.redoCtrlShiftZ')}
                    onClick={() => model.redo()}
                  >
                    <Redo2 className="size-4" />
                  </button>
                </>
              )}
              <button
                className="btn btn-ghost btn-sm"
                aria-label={t('workshop.history')}
                title={t('workshop.history')}
                onClick={() => setSheet('history')}
              >
                <History className="size-4" />
              </button>
              <button
                className="btn btn-ghost btn-sm"
                aria-label={benchShown ? t('workshop.hideTheBench') : t('workshop.showTheBench')}
                title={benchShown ? t('workshop.hideTheBench') : t('workshop.showTheBench')}
                onClick={() => setBenchAs(benchShown ? 'hidden' : 'beside')}
              >
                {benchShown ? <EyeOff className="size-4" /> : <Eye className="size-4" />}
              </button>
              <button
                className="btn btn-ghost btn-sm"
                aria-label={benchAs === 'alone' ? t('workshop.showTheWorksheetBesideTheBench') : t('workshop.giveTheBenchTheWholeWidth')}
                title={benchAs === 'alone' ? t('workshop.showTheWorksheetBesideTheBench') : t('workshop.giveTheBenchTheWholeWidth')}
                onClick={() => setBenchAs(benchAs === 'alone' ? 'beside' : 'alone')}
              >
                {benchAs === 'alone' ? <Minimize2 className="size-4" /> : <Maximize2 className="size-4" />}
              </button>
              {revision.state === 'draft' || revision.state === 'in review' ? (
                <button className="btn" onClick={() => setSheet('release')}>
                  {revision.state === 'draft' ? t('workshop.release') : t('workshop.inReview')}
                </button>
              ) : (
                mayEditModels && (
                  <button className="btn" disabled={next.isPending} onClick={() => next.mutate()}>
                    {t('workshop.editTheNextRevision')}
                  </button>
                )
              )}
            </>
          }
        />
        {revision.trouble && <p className="fault">{revision.trouble}</p>}
        {review && revision.state !== 'released' && review.outcome !== 'taken back' && <ReviewLine review={review} />}
        <Refusals />
        <WorkshopColumns
          benchAs={benchAs}
          outline={<Outline shown={list ? { listId: list.id } : { assemblyId: assembly?.id }} />}
          worksheet={
            <WorksheetPane
              list={list}
              isListGone={listId !== null && !list}
              assembly={assembly}
              openRow={openRow}
              kind={kind}
              onLanguage={setLanguage}
              onKind={(k) => setAddress({ assembly: assembly!.id, ...(k && { kind: k }) })}
            />
          }
          bench={
            <WorkshopBench sites={revision.sites} onNextRevision={mayEditModels && revision.state !== 'draft' ? () => next.mutate() : undefined} />
          }
        />
      </div>
      {uses && <UsesSheet {...uses} onClose={() => setUses(null)} />}
      {sheet === 'history' && <HistorySheet onClose={() => setSheet(null)} />}
      {sheet === 'release' && <ReleaseSheet revision={revision} onClose={() => setSheet(null)} />}
    </WorkshopContext>
  )
}

function StoredMark({ stored }: { stored: Stored }) {
  return (
    <span role="status" className={`min-w-20 text-right text-sm ${stored.state === 'waiting' ? 'fault' : 'quiet'}`}>
      {stored.state === 'waiting'
        ? t('workshop.editsEditsKeptHereTryingAgain', { count: stored.edits, edits: stored.edits })
        : stored.state === 'storing'
          ? t('workshop.storing')
          : stored.at
            ? t('workshop.storedAt', { at: clock(stored.at) })
            : t('workshop.allStored')}
    </span>
  )
}
