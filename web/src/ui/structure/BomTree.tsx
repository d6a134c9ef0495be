import { ChevronDown, ChevronRight } from 'lucide-react'
import { useState } from 'react'
import { Link } from 'react-router'
import type { Schemas } from '../../api/client'
import { Balloon } from '../Balloon'
import { grouped, money } from '../format'
import { useLongRows } from '../useLongRows'
import type { GoTo } from '../goTo'
import { Because } from './Because'
import { Steps } from './Steps'
import { t } from '../../texts'

type Structure = Schemas['StructureView']
type Line = Schemas['BomLineView']

/** A line with where it stands: how deep, and its positions from the top down. */
type Placed = { line: Line; depth: number; key: string }

/** The lines that are open to view, each before those below it. */
function placed(structure: Structure, closed: ReadonlySet<string>, depth = 0, prefix = ''): Placed[] {
  return structure.bom.flatMap((line) => {
    const key = `${prefix}${line.position}`
    return [{ line, depth, key }, ...(line.below && !closed.has(key) ? placed(line.below, closed, depth + 1, `${key}/`) : [])]
  })
}

const toggled = (keys: ReadonlySet<string>, key: string) => new Set(keys.has(key) ? [...keys].filter((k) => k !== key) : [...keys, key])

/** The bill of materials, level by level; a click on a line says why it is there and where its quantity comes from. */
export function BomTree({
  structure,
  goTo,
  goToPick,
  full,
}: {
  structure: Structure
  goTo?: GoTo
  goToPick?: (path: string) => void
  full?: boolean
}) {
  const [closed, setClosed] = useState<ReadonlySet<string>>(new Set())
  const [why, setWhy] = useState<ReadonlySet<string>>(new Set())
  const lines = placed(structure, closed)
  const ordered = full && structure.quantity !== undefined && structure.quantity !== '1' ? grouped(structure.quantity) : null
  const costs = full && structure.totals.cost !== ''
  const each = ordered === null ? '' : ` ${t('structures.each2')}`
  const { table, shown, before, after, measure } = useLongRows(lines.length, 31, (i) => lines[i]!.key)
  return (
    <table
      ref={table}
      className={`w-full border-collapse ${full ? '' : 'table-fixed'}`}
      aria-label={t('structures.billOfMaterialsOfItem', { item: structure.item })}
      aria-rowcount={lines.length + 1}
    >
      <thead className="quiet text-left text-sm">
        <tr className="border-b hair [&>th]:py-0.5 [&>th]:pr-3 [&>th]:font-normal [&>th]:italic">
          <th className={full ? 'w-20' : 'w-15'}>{t('structures.position')}</th>
          <th className={full ? '' : 'w-23'}>{t('structures.item')}</th>
          <th>{t('structures.description')}</th>
          {full && <th className="text-right whitespace-nowrap">{t('structures.netEach', { each })}</th>}
          <th className={`text-right whitespace-nowrap ${full ? '' : 'w-18'}`}>
            {full ? t('structures.grossEach', { each }) : t('structures.quantity')}
          </th>
          {ordered !== null && <th className="text-right whitespace-nowrap">{t('structures.grossForOrdered', { ordered })}</th>}
          <th className={full ? '' : 'w-10'}>{t('structures.unit')}</th>
          {costs && <th className="text-right whitespace-nowrap">{t('structures.costEachEUR', { each })}</th>}
          {costs && ordered !== null && <th className="text-right whitespace-nowrap">{t('structures.costForOrdered', { ordered })}</th>}
          {full && <th className="text-right">{t('structures.op')}</th>}
          {full && <th>{t('structures.issue')}</th>}
        </tr>
      </thead>
      {before > 0 && (
        <tbody aria-hidden>
          <tr style={{ height: before }} />
        </tbody>
      )}
      {shown.map((i) => {
        const { line, depth, key } = lines[i]!
        return (
          <tbody key={key} ref={measure} data-index={i}>
            <LineRows
              line={line}
              depth={depth}
              open={!closed.has(key)}
              why={why.has(key)}
              onOpen={() => setClosed(toggled(closed, key))}
              onWhy={() => setWhy(toggled(why, key))}
              goTo={goTo}
              goToPick={goToPick}
              full={full}
              costs={costs}
              ordered={ordered !== null}
            />
          </tbody>
        )
      })}
      {after > 0 && (
        <tbody aria-hidden>
          <tr style={{ height: after }} />
        </tbody>
      )}
    </table>
  )
}

type LineProps = {
  line: Line
  depth: number
  open: boolean
  why: boolean
  onOpen: () => void
  onWhy: () => void
  goTo?: GoTo
  goToPick?: (path: string) => void
  full?: boolean
  /** Whether there are columns of what it costs. */
  costs?: boolean
  ordered: boolean
}

function LineRows({ line, depth, open, why, onOpen, onWhy, goTo, goToPick, full, costs, ordered }: LineProps) {
  const columns = full ? 8 + (ordered ? 1 : 0) + (costs ? (ordered ? 2 : 1) : 0) : 5
  return (
    <>
      <tr className="border-b hair align-middle hover:bg-base-200 [&>td]:py-0.5 [&>td]:pr-3">
        <td style={{ paddingLeft: depth * 16 }}>
          <span className="flex items-center">
            {line.below ? (
              <button
                className="-ml-1 w-4"
                aria-label={open ? t('structures.closeItem', { item: line.item }) : t('structures.openItem', { item: line.item })}
                aria-expanded={open}
                onClick={onOpen}
              >
                {open ? <ChevronDown className="size-4" /> : <ChevronRight className="size-4" />}
              </button>
            ) : (
              <span className="w-3" />
            )}
            <button
              aria-label={t('structures.whyIsItemOnTheBill', { item: line.item })}
              aria-expanded={why}
              onClick={onWhy}
              className={line.below ? 'font-semibold text-primary' : 'hover:text-primary'}
            >
              <Balloon position={line.position} />
            </button>
          </span>
        </td>
        <td className={full ? 'whitespace-nowrap' : 'truncate'} title={line.item}>
          <button className={`text-left hover:text-primary ${line.below ? 'font-semibold' : ''}`} onClick={onWhy}>
            {line.item}
          </button>
        </td>
        <td className={full ? 'w-full' : 'truncate'} title={line.description}>
          {line.description}
          {(line.instances ?? []).length > 0 && <span className="quiet"> {t('structures.numberInRow', { n: line.instances!.join(', ') })}</span>}
          {/* Beside the unit there is room for it only on a page of its own. */}
          {!full && line.perOrder && <span className="quiet block text-sm">{t('structures.perOrder')}</span>}
          {(line.figures ?? []).length > 0 && (
            <span className="quiet block text-sm whitespace-normal">
              {line.figures!.map((f) => (
                <span key={f.name} className="mr-3 inline-block">
                  {f.name} {f.text}
                </span>
              ))}
            </span>
          )}
        </td>
        {full && <td className="text-right">{line.perOrder && ordered ? '' : grouped(line.net)}</td>}
        <td className="text-right">{line.perOrder && ordered ? '' : grouped(line.gross)}</td>
        {ordered && <td className="text-right">{grouped(line.orderGross ?? '')}</td>}
        <td className="whitespace-nowrap">
          {line.unitLabel}
          {full && line.perOrder && <span className="quiet"> {t('structures.perOrder')}</span>}
        </td>
        {costs && <td className="text-right">{money(line.cost)}</td>}
        {costs && ordered && <td className="text-right">{money(line.orderCost ?? '')}</td>}
        {full && <td className="text-right">{line.operation ?? ''}</td>}
        {full && <td className="whitespace-nowrap">{line.issue}</td>}
      </tr>
      {why && (
        <tr>
          <td colSpan={columns} style={{ paddingLeft: depth * 16 + 28 }}>
            {line.condition ? (
              <Because
                lead={t('structures.itIsThereBecause')}
                formula={line.condition}
                because={line.because}
                goToPick={goToPick}
                onRow={goTo && (() => goTo(line.assemblyId, line.rowId))}
              />
            ) : (
              <Because
                lead={t('structures.aStandardPartItIsAlways')}
                formula=""
                because={[]}
                onRow={goTo && (() => goTo(line.assemblyId, line.rowId))}
              />
            )}
            {line.quantity && (
              <Because
                lead={t('structures.itsQuantityStepScrap', {
                  step: line.step ? t('structures.roundedUpToStepsOfStep', { step: line.step }) : '',
                  scrap: line.scrap !== '0' ? t('structures.withScrapScrapNetNetGross', { scrap: line.scrap, net: line.net, gross: line.gross }) : '',
                })}
                formula={line.quantity}
                because={line.quantityBecause}
                goToPick={goToPick}
              >
                <Steps known={line.steps ?? null} rowId={line.rowId} prefix={line.prefix} field="quantity" formula={line.quantity} />
              </Because>
            )}
            {(line.substitutes ?? []).length > 0 && (
              <p className="my-1 border-l-2 border-primary bg-base-200 px-2 py-1 text-sm">
                <i className="quiet">{t('structures.insteadOfItInThisOrder')}</i>{' '}
                {line.substitutes!.map((s, i) => (
                  <span key={s}>
                    {i > 0 && ', '}
                    <Link className="link" to={`/items/${encodeURIComponent(s)}`}>
                      {s}
                    </Link>
                  </span>
                ))}
              </p>
            )}
            {line.below === null && (
              <p className="my-1 px-2 text-sm">
                <Link className="link" to={`/items/${encodeURIComponent(line.item)}`}>
                  {t('structures.itemInTheRegister', { item: line.item })}
                </Link>
              </p>
            )}
          </td>
        </tr>
      )}
    </>
  )
}
