import { TextField } from '../../ui/TextField'
import { allKinds, kindLabel } from './fields'
import { PinnedRevision } from './FilledBy'
import { ListEditor } from './ListEditor'
import { remove, reusedModelOf, set, type Assembly, type Kind, type ValueList } from './model'
import { useWorkshop, WorkshopContext } from './Workshop'
import { Worksheet } from './Worksheet'
import { t } from '../../texts'

const languages = [
  ['en', 'English'],
  ['de', 'Deutsch'],
  ['fr', 'Français'],
] as const

type Props = {
  list: ValueList | undefined
  isListGone: boolean
  assembly: Assembly | undefined
  openRow: string | null
  kind: Kind | null
  onLanguage: (language: string) => void
  onKind: (kind: string) => void
}

/** The middle of the workshop: an assembly or a value list, with what it is called and how it is shown. What is reused is only read here. */
export function WorksheetPane({ list, isListGone, assembly, openRow, kind, onLanguage, onKind }: Props) {
  const workshop = useWorkshop()
  const { document, model, language } = workshop
  const reused = reusedModelOf(document, list?.id ?? assembly?.id)
  const mayEdit = workshop.mayEdit && !reused
  return (
    <WorkshopContext value={{ ...workshop, mayEdit }}>
      <div className="flex h-full flex-col">
        <div className="flex shrink-0 flex-wrap items-center gap-2 border-b hair px-3 py-1">
          {!list && assembly && (
            <>
              <TextField
                className="w-40 border-transparent bg-transparent font-semibold"
                aria-label={t('workshop.labelOfTheAssembly')}
                disabled={!mayEdit}
                value={assembly.label[language] ?? ''}
                placeholder={assembly.name}
                onCommit={(text, before) => model.edit(set(assembly.id, `label/${language}`, text, before))}
              />
              <select
                className="select ml-auto w-auto"
                aria-label={t('workshop.rowsShown')}
                value={kind ?? ''}
                onChange={(e) => onKind(e.target.value)}
              >
                <option value="">{t('workshop.allRowsByTopic')}</option>
                {allKinds.map((k) => (
                  <option key={k} value={k}>
                    {t('workshop.kindAsATable', { kind: kindLabel(k) })}
                  </option>
                ))}
              </select>
            </>
          )}
          {list && <span className="font-semibold">{t('workshop.valueListName', { name: list.name })}</span>}
          <select
            className={`select w-auto ${list ? 'ml-auto' : ''}`}
            aria-label={t('workshop.languageOfTexts')}
            value={language}
            onChange={(e) => onLanguage(e.target.value)}
          >
            {languages.map(([code, name]) => (
              <option key={code} value={code}>
                {name}
              </option>
            ))}
          </select>
          {!list && assembly && mayEdit && assembly.id !== document.root && (
            <button className="btn btn-ghost btn-sm" onClick={() => model.edit(remove(assembly.id))}>
              {t('workshop.deleteAssembly')}
            </button>
          )}
        </div>
        <div className="min-h-0 flex-1 overflow-auto p-3">
          {reused && (
            <div className="mb-2 border-b hair pb-2">
              <PinnedRevision reused={reused} mayTake={workshop.mayEdit} />
            </div>
          )}
          {isListGone ? (
            <p className="quiet">{t('workshop.thisValueListIsNoLonger')}</p>
          ) : list ? (
            <ListEditor key={list.id} list={list} />
          ) : assembly ? (
            <Worksheet key={assembly.id} assembly={assembly} openRow={openRow} kind={kind} />
          ) : (
            <p className="quiet">{t('workshop.theModelHasNoAssembly')}</p>
          )}
        </div>
      </div>
    </WorkshopContext>
  )
}
