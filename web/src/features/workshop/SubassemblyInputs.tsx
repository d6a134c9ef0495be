import type { ReactNode } from 'react'
import { newId } from '../../api/ids'
import { add, assemblyOf, nameOf, placeOf, remove, reusedModelOf, rowsOf, type Document, type Row, type Step } from './model'
import { useWorkshop } from './Workshop'
import { t } from '../../texts'

type Place = Extract<Row, { kind: 'subassembly' }>

const assemblyAround = (document: Document, rowId: string) => placeOf(document, rowId)?.assembly

/** A name as an expression says it; nothing where there is none. */
const quoted = (row: Row | undefined) =>
  row === undefined ? '' : /^[\p{L}_][\p{L}\p{N}_]*$/u.test(nameOf(row)) ? nameOf(row) : `'${nameOf(row).replaceAll("'", "''")}'`

/** What the assembly below needs from here: each of its inputs given by an expression, or asked below. */
export function SubassemblyInputs({ place, render }: { place: Place; render: (field: string, label: string) => ReactNode }) {
  const { document, model, mayEdit, goToAssembly } = useWorkshop()
  const below = assemblyOf(document, place.assemblyId)
  const inputs = below ? rowsOf(below).flatMap((r) => (r.kind === 'attribute' && r.input ? [r] : [])) : []
  if (!below) return null
  // What stands above under the same name is mostly what is meant.
  const above = rowsOf(assemblyAround(document, place.id)!).filter((r) => r.kind === 'attribute' || r.kind === 'computed')
  const sameAbove = (input: Row) => above.find((r) => nameOf(r).toUpperCase() === nameOf(input).toUpperCase())
  const given = (input: Row) => ({ id: newId(), attributeId: input.id, expression: quoted(sameAbove(input)) })
  const open = inputs.filter((i) => sameAbove(i) && !place.inputs.some((g) => g.attributeId === i.id))
  if (inputs.length === 0)
    return (
      <p className="quiet text-sm">
        {t('workshop.nameNeedsNoInput', { name: below.name })}
        {!reusedModelOf(document, below.id) && (
          <>
            {' '}
            {t('workshop.anAttributeOfItBecomesOne')}{' '}
            <button className="link" onClick={() => goToAssembly(below.id)}>
              {t('workshop.itsWorksheet')}
            </button>
            .
          </>
        )}
      </p>
    )
  return (
    <div className="grid gap-1.5">
      <p className="flex flex-wrap items-baseline gap-x-3 text-sm">
        <span className="quiet italic">{t('workshop.inputsOfName', { name: below.name })}</span>
        {mayEdit && open.length > 0 && (
          <button
            className="link"
            onClick={() =>
              model.edit(
                ...open.reduce<Step[]>(
                  (steps, i) => [
                    ...steps,
                    add(
                      place.id,
                      'inputs',
                      (steps.at(-1) as { row?: { id: string } } | undefined)?.row?.id ?? place.inputs.at(-1)?.id ?? null,
                      given(i),
                    ),
                  ],
                  [],
                ),
              )
            }
          >
            {t('workshop.connectWithTheSameHere', { inputs: open.map(nameOf).join(', ') })}
          </button>
        )}
      </p>
      {inputs.map((input) => {
        const at = place.inputs.findIndex((i) => i.attributeId === input.id)
        const held = place.inputs[at]
        return (
          <div key={input.id} className="grid grid-cols-[8rem_minmax(0,1fr)_auto] items-start gap-2">
            <span className="py-0.5">{input.label.en ?? input.name}</span>
            {held ? render(`inputs/${at}/expression`, input.name) : <span className="quiet py-0.5 italic">{t('workshop.askedThere')}</span>}
            {mayEdit && (
              <button
                className="btn btn-ghost btn-sm"
                aria-label={
                  held
                    ? t('workshop.askInputThere', { input: input.label.en ?? input.name })
                    : t('workshop.giveInputFromHere', { input: input.label.en ?? input.name })
                }
                onClick={() => model.edit(held ? remove(held.id) : add(place.id, 'inputs', place.inputs.at(-1)?.id ?? null, given(input)))}
              >
                {held ? t('workshop.askItThere') : t('workshop.giveItFromHere')}
              </button>
            )}
          </div>
        )
      })}
    </div>
  )
}
