import { useLocation } from 'react-router'
import { Sheet } from '../ui/Sheet'
import { t } from '../texts'

type Keys = [string, string][]

const everywhere: Keys = [
  ['Ctrl+K', t('app.openOrDoAnythingProductsRows')],
  ['/', t('app.searchWhatIsOnThePage')],
  ['Esc', t('app.leaveAFieldAsItWas')],
  ['?', t('app.theseKeys')],
]

const workshop: Keys = [
  ['Ctrl+Z, Ctrl+Y', t('app.undoYourLastEditOfThe')],
  ['↑ ↓, Enter', t('app.goFromRowToRowOpen')],
  ['Shift+↑ ↓, Ctrl+click', t('app.markRowsCtrlAMarksAll')],
  ['Ctrl+C, Ctrl+X, Ctrl+V', t('app.copyCutAndPasteRowsAlso')],
  ['Ctrl+D, Delete', t('app.doubleRowsDeleteThem')],
  ['Alt+↑, Alt+↓', t('app.moveRowsOverTopicsToo')],
  [t('app.f2ShiftF12'), t('app.renameShowWhereItIsUsed')],
  ['Ctrl+click', t('app.inAnExpressionGoToWhat')],
  [t('app.tabCtrlSpace'), t('app.inAnExpressionOrANew')],
  ['Alt+Enter', t('app.mendWhatIsMarkedInAn')],
]

const tables: Keys = [
  [t('app.lettersF2Esc'), t('app.typeOverACellEditWhat')],
  [t('app.enterTabArrows'), t('app.goOnWithShiftTheArrows')],
  ['Ctrl+Z, Ctrl+Y', t('app.undoAndRedoWhatWasDone')],
  ['Ctrl+C, Ctrl+X, Ctrl+V', t('app.copyCutAndPasteCellsAlso')],
  ['Ctrl+D, Ctrl+R, Delete', t('app.fillDownFillToTheRight')],
  ['Ctrl+Enter, Ctrl+Delete', t('app.addARowDeleteTheMarked')],
  ['Alt+↑, Alt+↓', t('app.moveTheMarkedRows')],
  [t('app.escThenTab'), t('app.leaveTheTable')],
]

const questions: Keys = [
  ['Tab', t('app.fromQuestionToQuestion')],
  [t('app.arrows'), t('app.amongTheValuesOfAQuestion')],
  ['Enter', t('app.pickTheValueOnOneThat')],
  ['Esc', t('app.closeAReason')],
  ['Ctrl+Z, Ctrl+Shift+Z', t('app.whenConfiguringTakeBackTheLast')],
]

/** The keys of the page one is on, first those that are of it alone. */
function partsOf(path: string): { title: string; keys: Keys }[] {
  const isWorkshop = /^\/workshop\/[^/]+$/.test(path)
  const of = [
    ...(isWorkshop ? [{ title: t('app.rowsAndExpressions'), keys: workshop }] : []),
    ...(isWorkshop || path.startsWith('/library') ? [{ title: t('app.tables'), keys: tables }] : []),
    ...(isWorkshop || path.startsWith('/configure') || path.startsWith('/configurations/') ? [{ title: t('app.questions'), keys: questions }] : []),
  ]
  return [...of, { title: t('app.everywhere'), keys: everywhere }]
}

export function KeysSheet({ onClose }: { onClose: () => void }) {
  const { pathname } = useLocation()
  return (
    <Sheet title={t('app.keysOfThisPage')} onClose={onClose} wide>
      <div className="grid gap-4">
        {partsOf(pathname).map(({ title, keys }) => (
          <section key={title} aria-label={title}>
            <p className="quiet border-b hair text-sm italic">{title}</p>
            <dl className="grid grid-cols-[15rem_1fr] gap-x-6 gap-y-1 pt-1">
              {keys.map(([key, what]) => (
                <div key={key + what} className="contents">
                  <dt className="font-mono text-sm">{key}</dt>
                  <dd>{what}</dd>
                </div>
              ))}
            </dl>
          </section>
        ))}
      </div>
    </Sheet>
  )
}
