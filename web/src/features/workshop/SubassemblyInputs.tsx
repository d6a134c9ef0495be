import type { ReactNode } from 'react'
import { newId } from '../../api/ids'
import { add, assemblyOf, remove, reusedModelOf, rowsOf, type Row } from './model'
import { useWorkshop } from './Workshop'

type Place = Extract<Row, { kind: 'subassembly' }>

/** What the assembly below needs from here: each of its inputs given by an expression, or asked below. */
export function SubassemblyInputs({ place, render }: { place: Place; render: (field: string, label: string) => ReactNode }) {
  const { document, model, mayEdit, goToAssembly } = useWorkshop()
  const below = assemblyOf(document, place.assemblyId)
  const inputs = below ? rowsOf(below).flatMap((r) => (r.kind === 'attribute' && r.input ? [r] : [])) : []
  if (!below) return null
  if (inputs.length === 0)
    return (
      <p className="quiet text-sm">
        “{below.name}” needs no input.
        {!reusedModelOf(document, below.id) && (
          <>
            {' '}
            An attribute of it becomes one by “Input from above” on{' '}
            <button className="link" onClick={() => goToAssembly(below.id)}>
              its worksheet
            </button>
            .
          </>
        )}
      </p>
    )
  return (
    <div className="grid gap-1.5">
      <p className="quiet text-sm italic">Inputs of {below.name}</p>
      {inputs.map((input) => {
        const at = place.inputs.findIndex((i) => i.attributeId === input.id)
        const given = place.inputs[at]
        return (
          <div key={input.id} className="grid grid-cols-[8rem_minmax(0,1fr)_auto] items-start gap-2">
            <span className="py-0.5">{input.label.en ?? input.name}</span>
            {given ? render(`inputs/${at}/expression`, input.name) : <span className="quiet py-0.5 italic">asked there</span>}
            {mayEdit && (
              <button
                className="act-bare"
                aria-label={given ? `Ask ${input.label.en ?? input.name} there` : `Give ${input.label.en ?? input.name} from here`}
                onClick={() => model.edit(given ? remove(given.id) : add(place.id, 'inputs', place.inputs.at(-1)?.id ?? null, { id: newId(), attributeId: input.id, expression: '' }))}
              >
                {given ? 'Ask it there' : 'Give it from here'}
              </button>
            )}
          </div>
        )
      })}
    </div>
  )
}
