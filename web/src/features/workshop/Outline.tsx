import { Boxes, List, PackageOpen, Plus, TriangleAlert } from 'lucide-react'
import { useState } from 'react'
import { newId } from '../../api/ids'
import { inEnglish } from '../../ui/format'
import { SearchField } from '../../ui/SearchField'
import { HealthMark } from '../health'
import { KindMark } from './KindMark'
import { add, allRows, assemblyOf, everyAssembly, nameOf, placeOf, reuse, reusedModelOf, rowsOf, summaryOf, type Assembly } from './model'
import { useDropTarget } from './rows/useDropTarget'
import { topicElementId } from './Worksheet'
import { useWorkshop } from './Workshop'
import { t } from '../../texts'

/** The assemblies as a tree with their topics, then the value lists; a search goes to any row. */
export function Outline({ shown }: { shown: { assemblyId?: string; listId?: string } }) {
  const { document, findings, model, mayEdit, goToList, goToRow } = useWorkshop()
  const [search, setSearch] = useState('')
  const wanted = search.trim().toLowerCase()
  const faulty = new Set(findings.map((f) => f.rowId))
  const found =
    wanted === ''
      ? []
      : everyAssembly(document)
          .flatMap(rowsOf)
          .filter((r) =>
            `${nameOf(r)} ${summaryOf(r, document)} ${'label' in r ? inEnglish(r.label) : ''} ${'number' in r ? `§${r.number}` : ''}`
              .toLowerCase()
              .includes(wanted),
          )

  return (
    <nav aria-label={t('workshop.outline')} className="flex h-full flex-col gap-2 overflow-auto p-2">
      <SearchField label={t('workshop.searchTheModel')} value={search} onChange={setSearch} />
      {wanted !== '' ? (
        <div className="grid">
          {found.slice(0, 100).map((row) => (
            <button
              key={row.id}
              className="grid grid-cols-[2.4rem_minmax(0,1fr)] items-center gap-1 py-0.5 text-left hover:bg-base-200"
              onClick={() => goToRow(placeOf(document, row.id)!.assembly.id, row.id)}
            >
              <span className="grid place-items-center">
                <KindMark row={row} />
              </span>
              <span className="truncate">
                <b className="font-semibold">{nameOf(row)}</b> <span className="quiet">{summaryOf(row, document)}</span>
              </span>
            </button>
          ))}
          {found.length === 0 && <p className="quiet">{t('workshop.noRowHasSearch', { search })}</p>}
        </div>
      ) : (
        <>
          <ul>
            <Branch assembly={assemblyOf(document, document.root)} depth={0} above={[]} shown={shown.assemblyId} faulty={faulty} />
            {document.assemblies
              .filter((a) => a.id !== document.root && !allRows(document).some((r) => r.kind === 'subassembly' && r.assemblyId === a.id))
              .map((a) => (
                <Branch key={a.id} assembly={a} depth={0} above={[]} shown={shown.assemblyId} faulty={faulty} />
              ))}
          </ul>
          <Unplaced />
          <div>
            <p className="quiet flex items-center justify-between border-b hair text-sm italic">
              {t('workshop.valueLists')}
              {mayEdit && (
                <button
                  className="btn btn-ghost btn-sm"
                  aria-label={t('workshop.newValueList')}
                  onClick={() => {
                    const id = newId()
                    model.edit(
                      add(document.id, 'lists', document.lists.at(-1)?.id ?? null, {
                        id,
                        name: `list_${document.lists.length + 1}`,
                        label: {},
                        values: [],
                      }),
                    )
                    goToList(id)
                  }}
                >
                  <Plus className="size-4" />
                </button>
              )}
            </p>
            <ul>
              {document.lists.map((l) => (
                <li key={l.id}>
                  <button
                    className={`flex w-full items-center gap-1.5 py-0.5 pl-1 text-left hover:text-primary ${shown.listId === l.id ? 'font-semibold text-primary' : ''}`}
                    onClick={() => goToList(l.id)}
                  >
                    <List className="size-3.5 shrink-0" strokeWidth={1.5} />
                    <span className="flex-1 truncate">{l.name}</span>
                    {faulty.has(l.id) && <TriangleAlert className="fault size-3.5" aria-label={t('workshop.hasFaults')} />}
                    <span className="quiet text-sm">{l.values.length}</span>
                  </button>
                </li>
              ))}
            </ul>
            {document.lists.length === 0 && <p className="quiet text-sm">{t('workshop.aChoiceMakesItsListWith')}</p>}
          </div>
        </>
      )}
    </nav>
  )
}

/** Reused models that fill nothing any more. */
function Unplaced() {
  const { document, model, mayEdit } = useWorkshop()
  const idle = document.reused.filter((r) => !allRows(document).some((row) => row.kind === 'subassembly' && row.assemblyId === r.id))
  if (idle.length === 0) return null
  return (
    <div>
      <p className="quiet border-b hair text-sm italic">{t('workshop.reusedButFillingNothing')}</p>
      {idle.map((r) => (
        <p key={r.id} className="flex items-center gap-1.5 py-0.5 pl-1">
          <PackageOpen className="size-4 shrink-0" strokeWidth={1.5} />
          <span className="flex-1 truncate">{t('workshop.codeRevisionRevision', { code: r.code, revision: r.revision })}</span>
          {mayEdit && (
            <button className="btn btn-ghost btn-sm" onClick={() => model.edit(reuse(r.id, r.productId, null, r.revision))}>
              {t('workshop.takeOut')}
            </button>
          )}
        </p>
      ))}
    </div>
  )
}

/** An assembly with its topics, and below it those that fill its subassemblies. */
function Branch({
  assembly,
  depth,
  above,
  shown,
  faulty,
}: {
  assembly: Assembly | undefined
  depth: number
  above: string[]
  shown: string | undefined
  faulty: Set<string>
}) {
  const { document, goToAssembly, health } = useWorkshop()
  const target = useDropTarget()
  if (!assembly || above.includes(assembly.id)) return null
  const faults = rowsOf(assembly).filter((r) => faulty.has(r.id)).length
  const active = shown === assembly.id
  const reused = reusedModelOf(document, assembly.id)
  return (
    <li>
      <button
        className={`flex w-full items-center gap-1.5 py-0.5 text-left hover:text-primary ${active ? 'font-semibold text-primary' : ''} ${target.isOver === assembly.id ? 'bg-primary/12' : ''}`}
        style={{ paddingLeft: 4 + depth * 12 }}
        onClick={() => goToAssembly(assembly.id)}
        {...target.of(assembly, assembly.topics.at(-1), assembly.id)}
      >
        {reused ? (
          <PackageOpen className="size-4 shrink-0" strokeWidth={1.5} aria-label={t('workshop.anotherProduct2')} />
        ) : (
          <Boxes className="size-4 shrink-0" strokeWidth={1.5} />
        )}
        <span className="flex-1 truncate">{inEnglish(assembly.label) || assembly.name}</span>
        {reused?.root === assembly.id && (
          <span className="quiet text-sm" title={t('workshop.revisionRevisionOfCode', { revision: reused.revision, code: reused.code })}>
            {reused.code} {reused.revision}
          </span>
        )}
        <HealthMark findings={health.filter((f) => f.assemblyId === assembly.id)} />
        {faults > 0 && (
          <span className="fault flex items-center gap-0.5 text-sm" title={t('workshop.faultsRowsWithFaults', { faults })}>
            <TriangleAlert className="size-3.5" aria-label={t('workshop.rowsWithFaults')} />
            {faults}
          </span>
        )}
      </button>
      <ul>
        {active &&
          assembly.topics.map((t) => (
            <li key={t.id}>
              <button
                className={`quiet flex w-full justify-between border-l hair py-px pr-1 text-left text-sm hover:text-primary ${target.isOver === t.id ? 'bg-primary/12' : ''}`}
                {...target.of(assembly, t, t.id)}
                style={{ marginLeft: 12 + depth * 12, paddingLeft: 8, width: `calc(100% - ${12 + depth * 12}px)` }}
                onClick={() => window.document.getElementById(topicElementId(t.id))?.scrollIntoView({ block: 'start' })}
              >
                <span className="flex-1 truncate">{inEnglish(t.label)}</span>
                <HealthMark findings={health.filter((f) => t.rows.some((r) => r.id === f.rowId))} />
                <span className="w-5 text-right">{t.rows.length}</span>
              </button>
            </li>
          ))}
        {rowsOf(assembly).map(
          (r) =>
            r.kind === 'subassembly' && (
              <Branch
                key={r.id}
                assembly={assemblyOf(document, r.assemblyId)}
                depth={depth + 1}
                above={[...above, assembly.id]}
                shown={shown}
                faulty={faulty}
              />
            ),
        )}
      </ul>
    </li>
  )
}
