import { useQuery } from '@tanstack/react-query'
import { useState } from 'react'
import { ask, client, sentenceOf, type Schemas } from '../../api/client'
import { grouped } from '../../ui/format'
import { ListTable } from '../../ui/ListTable'
import { Waiting } from '../../ui/Waiting'
import { useHealthDay } from './useHealth'
import { t } from '../../texts'

type Measured = Schemas['MeasuredFeatureView']
type Feature = Schemas['FeatureView']

const nameOf = (f: Feature) => `${f.label}: ${f.valueLabel}`

const presence = (f: Measured) =>
  f.presence === 'core' ? t('health.inEveryOne') : f.presence === 'dead' ? t('health.inNone') : f.share === null ? t('health.inSome') : `${f.share} %`

/** How many configurations there are, which answers are in all of them or none, and which go together: asked for, since it can take a while. */
export function Measures({ revisionId, head }: { revisionId: number; head: number }) {
  const day = useHealthDay()
  const [isAsked, setAsked] = useState(false)
  const measures = useQuery({
    queryKey: ['measures', revisionId, head, day],
    queryFn: ({ signal }) => ask(client.GET('/api/revisions/{id}/measures', { params: { path: { id: revisionId }, query: { date: day } }, signal })),
    enabled: isAsked,
    staleTime: Infinity,
  })
  const m = measures.data
  return (
    <section aria-label={t('health.measures')} className="mb-5">
      <h2 className="border-b hair pb-0.5 font-semibold">{t('health.measures')}</h2>
      {!isAsked && (
        <p className="py-2">
          <button className="btn btn-sm" onClick={() => setAsked(true)}>
            {t('health.measure')}
          </button>{' '}
          <span className="quiet text-sm">{t('health.whatIsMeasured')}</span>
        </p>
      )}
      {measures.isFetching && <Waiting />}
      {measures.error && <p className="fault">{sentenceOf(measures.error)}</p>}
      {m && (
        <div className="grid gap-3 py-2">
          {!m.finished && <p className="quiet italic">{t('health.notAllMeasuredInTime')}</p>}
          <p>
            {m.configurations === null
              ? t('health.configurationsNotCounted', { combinations: grouped(m.combinations) })
              : t('health.configurationsOfCombinations', {
                  configurations: grouped(m.configurations),
                  combinations: grouped(m.combinations),
                  share: m.share ?? '',
                })}{' '}
            {m.inRules !== null && t('health.questionsInRules', { share: m.inRules })}
          </p>
          {m.together.length > 0 && (
            <div>
              <p className="quiet text-sm italic">{t('health.alwaysTogether')}</p>
              <ul>
                {m.together.map((set) => (
                  <li key={set.map(nameOf).join()} className="border-b hair py-0.5">
                    {set.map(nameOf).join(' · ')}
                  </li>
                ))}
              </ul>
            </div>
          )}
          <ListTable<Measured>
            label={t('health.answers')}
            rows={m.features}
            keyOf={(f) => f.feature.path + f.feature.valueLabel}
            columns={[
              { key: 'answer', name: t('health.answer'), text: (f) => nameOf(f.feature), cell: (f) => nameOf(f.feature) },
              { key: 'in', name: t('health.inConfigurations'), look: 'whitespace-nowrap', text: presence, cell: presence },
              {
                key: 'implies',
                name: t('health.implies'),
                text: (f) => f.implies.map(nameOf).join(', '),
                cell: (f) => <Some features={f.implies} />,
              },
              {
                key: 'excludes',
                name: t('health.excludes'),
                text: (f) => f.excludes.map(nameOf).join(', '),
                cell: (f) => <Some features={f.excludes} />,
              },
            ]}
          />
        </div>
      )}
    </section>
  )
}

const mostNamed = 4

/** The first of them; all on hovering. */
function Some({ features }: { features: Feature[] }) {
  const rest = features.length - mostNamed
  return (
    <span className="text-sm" title={features.map(nameOf).join('\n')}>
      {features.slice(0, mostNamed).map(nameOf).join(', ')}
      {rest > 0 && <i className="quiet"> {t('health.andMore', { rest })}</i>}
    </span>
  )
}
