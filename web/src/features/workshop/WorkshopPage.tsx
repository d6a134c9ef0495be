import { useMutation } from '@tanstack/react-query'
import { Eye, EyeOff, History, Maximize2, Minimize2, Redo2, Undo2 } from 'lucide-react'
import { useEffect, useState, type ReactNode } from 'react'
import { Group, Panel, Separator } from 'react-resizable-panels'
import { Link, useNavigate, useParams, useSearchParams } from 'react-router'
import { ask, client, sentenceOf } from '../../api/client'
import { useRight } from '../../app/session'
import { clock, inEnglish, when } from '../../ui/format'
import { useShortcut } from '../../ui/keys'
import { TitleBlock } from '../../ui/TitleBlock'
import { FillIn } from '../bench/FillIn'
import { Outcome } from '../bench/Outcome'
import { Clashes, Questions } from '../bench/Questions'
import { benchKey, tryNext, useBench } from '../bench/useBench'
import { DayChoice, SiteChoice } from '../bench/WhereAndWhen'
import { useLibrary } from '../library/useLibrary'
import { AddFromRegister } from './AddFromRegister'
import { CountCell } from '../health/CountCell'
import { inShort, needsAttention, useHealth } from '../health/useHealth'
import { kindLabels } from './fields'
import { PinnedRevision } from './FilledBy'
import { HistorySheet } from './HistorySheet'
import { ListEditor } from './ListEditor'
import { allRows, assemblyOf, isRule, listOf, placeOf, remove, reusedModelOf, set, type Kind } from './model'
import { Outline } from './Outline'
import { Refusals } from './Refusals'
import { ReleaseSheet } from './ReleaseSheet'
import { ReviewLine } from './ReviewLine'
import { useReview } from './useReview'
import { rowElementId } from './rows/RowLine'
import { UsesSheet } from './rows/UsesSheet'
import { useModel, type Stored } from './useModel'
import { WorkshopContext, type Workshop } from './Workshop'
import { Worksheet } from './Worksheet'
import { TextField } from '../../ui/TextField'
import { Waiting } from '../../ui/Waiting'

const languages = [
  ['en', 'English'],
  ['de', 'Deutsch'],
  ['fr', 'Français'],
] as const

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
  const [filling, setFilling] = useState(false)
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

  const openRow = address.get('row')
  useEffect(() => {
    if (openRow) document.getElementById(rowElementId(openRow))?.scrollIntoView({ block: 'nearest' })
  }, [openRow])

  if (model.error && !revision)
    return (
      <p className="p-8">
        {sentenceOf(model.error)}{' '}
        <Link className="link" to="/products">
          To the products
        </Link>
      </p>
    )
  if (!revision) return <p className="quiet p-8">One moment …</p>

  const doc = revision.document
  const listId = address.get('list')
  const list = listId === null ? undefined : listOf(doc, listId)
  // A row by itself is enough of an address.
  const assembly = assemblyOf(doc, address.get('assembly')) ?? (openRow ? placeOf(doc, openRow)?.assembly : undefined) ?? assemblyOf(doc, doc.root)
  const reused = reusedModelOf(doc, list?.id ?? assembly?.id)
  const kind = address.get('kind') as Kind | null
  const workshop: Workshop = {
    revisionId,
    document: doc,
    findings: revision.findings,
    health: (health.data?.findings ?? []).filter(needsAttention),
    model,
    bench,
    library: library.data,
    mayEdit,
    language,
    goToAssembly: (id) => setAddress({ assembly: id }),
    goToList: (id) => setAddress({ list: id }),
    renaming,
    showUses: (id, name) => setUses({ id, name }),
    goToRow: (assemblyId, rowId, atName) => {
      setRenaming(atName && rowId ? { rowId } : null)
      // A reason on the bench leads to its row, which has to be there to be seen.
      setBenchAs((now) => (now === 'alone' ? 'beside' : now))
      setAddress(rowId ? { assembly: assemblyId, row: rowId } : { assembly: assemblyId })
    },
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
              {list ? ` · value list ${list.name}` : assembly && assembly.id !== doc.root ? ` · ${inEnglish(assembly.label) || assembly.name}` : ''}
            </>
          }
          place={list ? `value list ${list.name}` : assembly && (inEnglish(assembly.label) || assembly.name)}
          cells={[
            { label: 'revision', value: `${revision.number} ${revision.state}`, room: 9 },
            { label: 'faults', value: blocking > 0 ? <span className="fault font-semibold">{blocking}</span> : <span className="quiet">none</span>, room: 4 },
            {
              label: 'health',
              room: 15,
              value: (
                <Link className="link" to={`/workshop/${revisionId}/health`}>
                  {inShort(health.data)}
                </Link>
              ),
            },
            { label: 'configurations', value: <CountCell revisionId={revisionId} head={revision.head} />, room: 13 },
            {
              label: 'structure',
              value: (
                <Link className="link" to={`/workshop/${revisionId}/structure`}>
                  all lines
                </Link>
              ),
            },
            { label: 'changed', value: `${when(revision.changedAt)} by ${revision.author}`, room: 16 },
            { label: 'rules', value: `${rows.filter(isRule).length} of ${rows.length} rows`, room: 14 },
          ]}
          actions={
            <>
              <StoredMark stored={model.stored} />
              {mayEdit && (
                <>
                  <button className="act-bare" aria-label="Undo" title="Undo your last edit (Ctrl+Z)" onClick={() => model.undo()}>
                    <Undo2 className="size-4" />
                  </button>
                  <button className="act-bare" aria-label="Redo" title="Redo (Ctrl+Shift+Z)" onClick={() => model.redo()}>
                    <Redo2 className="size-4" />
                  </button>
                </>
              )}
              <button className="act-bare" aria-label="History" title="History" onClick={() => setSheet('history')}>
                <History className="size-4" />
              </button>
              <button className="act-bare" aria-label={benchShown ? 'Hide the bench' : 'Show the bench'} title={benchShown ? 'Hide the bench' : 'Show the bench'} onClick={() => setBenchAs(benchShown ? 'hidden' : 'beside')}>
                {benchShown ? <EyeOff className="size-4" /> : <Eye className="size-4" />}
              </button>
              <button
                className="act-bare"
                aria-label={benchAs === 'alone' ? 'Show the worksheet beside the bench' : 'Give the bench the whole width'}
                title={benchAs === 'alone' ? 'Show the worksheet beside the bench' : 'Give the bench the whole width'}
                onClick={() => setBenchAs(benchAs === 'alone' ? 'beside' : 'alone')}
              >
                {benchAs === 'alone' ? <Minimize2 className="size-4" /> : <Maximize2 className="size-4" />}
              </button>
              {revision.state === 'draft' || revision.state === 'in review' ? (
                <button className="act" onClick={() => setSheet('release')}>
                  {revision.state === 'draft' ? 'Release …' : 'In review …'}
                </button>
              ) : (
                mayEditModels && (
                  <button className="act" disabled={next.isPending} onClick={() => next.mutate()}>
                    Edit the next revision
                  </button>
                )
              )}
            </>
          }
        />
        {revision.trouble && <p className="fault">{revision.trouble}</p>}
        {review && revision.state !== 'released' && review.outcome !== 'taken back' && <ReviewLine review={review} />}
        <Refusals />
        <Group orientation="horizontal" id="juniperfall.workshop" className="min-h-0 flex-1 border hair" key={benchAs} defaultLayout={layout(`columns.${benchAs}`)} onLayoutChanged={(l) => keepLayout(`columns.${benchAs}`, l)}>
          {benchAs !== 'alone' && (
            <>
              <Panel id="outline" defaultSize="17%" minSize="10%">
                <Outline shown={list ? { listId: list.id } : { assemblyId: assembly?.id }} />
              </Panel>
              <Divider />
              <Panel id="worksheet" defaultSize="46%" minSize="25%">
                <WorkshopContext value={{ ...workshop, mayEdit: mayEdit && !reused }}>
                  <div className="flex h-full flex-col">
                    <div className="flex shrink-0 flex-wrap items-center gap-2 border-b hair px-3 py-1">
                      {!list && assembly && (
                        <>
                          <TextField
                            className="w-40 border-transparent bg-transparent font-semibold"
                            aria-label="Label of the assembly"
                            disabled={!mayEdit || reused !== undefined}
                            value={assembly.label[language] ?? ''}
                            placeholder={assembly.name}
                            onCommit={(text, before) => model.edit(set(assembly.id, `label/${language}`, text, before))}
                          />
                          <select
                            className="field ml-auto w-auto"
                            aria-label="Rows shown"
                            value={kind ?? ''}
                            onChange={(e) => setAddress(e.target.value ? { assembly: assembly.id, kind: e.target.value } : { assembly: assembly.id })}
                          >
                            <option value="">all rows, by topic</option>
                            {Object.entries(kindLabels).map(([k, label]) => (
                              <option key={k} value={k}>
                                {label} as a table
                              </option>
                            ))}
                          </select>
                        </>
                      )}
                      {list && <span className="font-semibold">Value list {list.name}</span>}
                      <select className={`field w-auto ${list ? 'ml-auto' : ''}`} aria-label="Language of texts" value={language} onChange={(e) => setLanguage(e.target.value)}>
                        {languages.map(([code, name]) => (
                          <option key={code} value={code}>
                            {name}
                          </option>
                        ))}
                      </select>
                      {!list && assembly && mayEdit && !reused && assembly.id !== doc.root && (
                        <button className="act-bare" onClick={() => model.edit(remove(assembly.id))}>
                          Delete assembly
                        </button>
                      )}
                    </div>
                    <div className="min-h-0 flex-1 overflow-auto p-3">
                      {reused && (
                        <div className="mb-2 border-b hair pb-2">
                          <PinnedRevision reused={reused} mayTake={mayEdit} />
                        </div>
                      )}
                      {listId !== null && !list ? (
                        <p className="quiet">This value list is no longer there.</p>
                      ) : list ? (
                        <ListEditor key={list.id} list={list} />
                      ) : assembly ? (
                        <Worksheet key={assembly.id} assembly={assembly} openRow={openRow} kind={kind} />
                      ) : (
                        <p className="quiet">The model has no assembly.</p>
                      )}
                    </div>
                  </div>
                </WorkshopContext>
              </Panel>
            </>
          )}
          {benchAs === 'beside' && <Divider />}
          {benchShown && (
            <Panel id="bench" defaultSize="37%" minSize="20%">
              <BenchPane>
                <Panel id="questions" defaultSize="55%" minSize="15%">
                  <div className="h-full overflow-auto p-3" role="region" aria-label="Bench">
                    <div className="quiet mb-1 flex flex-wrap items-center justify-between gap-x-2 text-sm">
                      <i>Bench{bench.working && bench.answer ? ': working it out …' : ''}</i>
                      <span className="flex items-center gap-1">
                        <SiteChoice bench={bench} sites={revision.sites} />
                        <DayChoice bench={bench} />
                        <button className="act-bare" aria-label="Undo on the bench" disabled={!bench.canUndo} onClick={bench.undo}>
                          <Undo2 className="size-3.5" />
                        </button>
                        <button className="act-bare" aria-label="Redo on the bench" disabled={!bench.canRedo} onClick={bench.redo}>
                          <Redo2 className="size-3.5" />
                        </button>
                        <button className="act-bare whitespace-nowrap" aria-expanded={filling} disabled={!bench.answer?.valid} onClick={() => setFilling(!filling)}>
                          Fill in
                        </button>
                        <button className="act-bare" disabled={bench.picks.length === 0} onClick={bench.clear}>
                          Clear
                        </button>
                      </span>
                    </div>
                    {filling && <FillIn revisionId={revisionId} bench={bench} onClose={() => setFilling(false)} />}
                    {bench.error && <p className="fault">{sentenceOf(bench.error)}</p>}
                    {!bench.answer && !bench.error && (
                      <>
                        <p className="quiet">Working out what can be had …</p>
                        <Waiting />
                      </>
                    )}
                    {bench.answer?.sections.length === 0 && bench.answer.clashes.length === 0 && <p className="quiet">Nothing is asked yet. Attributes of the model show up here as the order desk will see them.</p>}
                    <Clashes bench={bench} revisionId={revisionId} goTo={(a, r) => workshop.goToRow(a, r)} />
                    <Questions bench={bench} revisionId={revisionId} goTo={(a, r) => workshop.goToRow(a, r)} />
                  </div>
                </Panel>
                <Divider flat />
                <Panel id="outcome" defaultSize="45%" minSize="10%">
                  <Outcome revisionId={revisionId} bench={bench} goTo={(a, r) => workshop.goToRow(a, r)} belowParts={<AddFromRegister onNextRevision={mayEditModels && revision.state !== 'draft' ? () => next.mutate() : undefined} />} />
                </Panel>
              </BenchPane>
            </Panel>
          )}
        </Group>
      </div>
      {uses && <UsesSheet {...uses} onClose={() => setUses(null)} />}
        {sheet === 'history' && <HistorySheet onClose={() => setSheet(null)} />}
      {sheet === 'release' && <ReleaseSheet revision={revision} onClose={() => setSheet(null)} />}
    </WorkshopContext>
  )
}

const BenchPane = ({ children }: { children: ReactNode }) => (
  <Group orientation="vertical" id="juniperfall.bench" className="h-full" defaultLayout={layout('bench')} onLayoutChanged={(l) => keepLayout('bench', l)}>
    {children}
  </Group>
)

const Divider = ({ flat }: { flat?: boolean }) => (
  <Separator className={`${flat ? 'h-1' : 'w-1'} border-base-300 bg-base-200 outline-offset-0 hover:bg-primary/40 ${flat ? 'border-y' : 'border-x'}`} />
)

/** Widths that were dragged are remembered. */
function layout(name: string): Record<string, number> | undefined {
  try {
    return (JSON.parse(localStorage.getItem(`juniperfall.layout.${name}`) ?? 'null') as Record<string, number> | null) ?? undefined
  } catch {
    return undefined
  }
}

const keepLayout = (name: string, sizes: Record<string, number>) => localStorage.setItem(`juniperfall.layout.${name}`, JSON.stringify(sizes))

function StoredMark({ stored }: { stored: Stored }) {
  return (
    <span role="status" className={`min-w-20 text-right text-sm ${stored.state === 'waiting' ? 'fault' : 'quiet'}`}>
      {stored.state === 'waiting'
        ? `${stored.edits} edit${stored.edits === 1 ? '' : 's'} kept here, trying again …`
        : stored.state === 'storing'
          ? 'storing …'
          : stored.at
            ? `stored ${clock(stored.at)}`
            : 'all stored'}
    </span>
  )
}
