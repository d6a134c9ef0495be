import type { Place } from '../../api/answer'
import { Copy, Plus, Tag, X } from 'lucide-react'
import { useState } from 'react'
import { countOf, withCopy, without, withOneMore } from './instances'
import type { Bench } from './useBench'
import { WhatInstanceCosts } from './WhatItCosts'
import { t } from '../../texts'

/** The head of one of several instances: which one it is, to be copied or taken out. */
export function InstanceHead({ place, instance, bench, revisionId }: { place: Place; instance: number; bench: Bench; revisionId: number }) {
  const name = `${place.name} ${instance + 1}`
  const [costs, setCosts] = useState(false)
  return (
    <>
      <div className="mb-1 flex items-center gap-1 border-b-2 border-base-content/60 pb-0.5">
        <h3 className="mr-auto font-semibold">
          {name} <span className="quiet font-normal">{t('bench.ofPlace', { place: countOf(place) })}</span>
        </h3>
        {place.countPath !== null && (
          <>
            {bench.answer?.priced && (
              <button
                className="btn btn-ghost btn-sm"
                aria-label={t('bench.whatDoesLabelCost', { label: name })}
                title={place.canRemove ? t('bench.whatIsPaidForIt') : t('bench.thereCannotBeOneLessNow')}
                aria-expanded={costs}
                disabled={!place.canRemove}
                onClick={() => setCosts(!costs)}
              >
                <Tag className="size-3.5" />
              </button>
            )}
            <button
              className="btn btn-ghost btn-sm"
              aria-label={t('bench.copyName', { name })}
              title={place.canAdd ? t('bench.oneMoreWithTheSameAnswers') : t('bench.thereCannotBeOneMoreNow')}
              disabled={!place.canAdd}
              onClick={() => bench.change((picks) => withCopy(picks, place, instance))}
            >
              <Copy className="size-3.5" />
            </button>
            <button
              className="btn btn-ghost btn-sm"
              aria-label={t('bench.removeName', { name })}
              title={place.canRemove ? t('bench.takeItOutTheLaterOnes') : t('bench.thereCannotBeOneLessNow')}
              disabled={!place.canRemove}
              onClick={() => bench.change((picks) => without(picks, place, instance))}
            >
              <X className="size-3.5" />
            </button>
          </>
        )}
      </div>
      {costs && (
        <WhatInstanceCosts
          revisionId={revisionId}
          bench={bench}
          name={name}
          without={(picks) => without(picks, place, instance)}
          onClose={() => setCosts(false)}
        />
      )}
    </>
  )
}

/** Below the last instance: one more. Where there cannot be one, the number tells why. */
export function AddInstance({ place, bench, onWhy }: { place: Place; bench: Bench; onWhy: (path: string) => void }) {
  if (place.countPath === null || countOf(place) >= place.prefixes.length) return null
  const { countPath } = place
  return (
    <p className="mb-3">
      {place.canAdd ? (
        <button className="btn" onClick={() => bench.change((picks) => withOneMore(picks, place))}>
          <Plus className="size-3.5" /> {place.name} {countOf(place) + 1}
        </button>
      ) : (
        <button className="link text-sm" onClick={() => onWhy(countPath)}>
          {t('bench.noMoreThanPlaceNow', { place: countOf(place) })}
        </button>
      )}
    </p>
  )
}
