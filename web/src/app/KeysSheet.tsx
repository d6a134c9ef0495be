import { useLocation } from 'react-router'
import { Sheet } from '../ui/Sheet'

type Keys = [string, string][]

const everywhere: Keys = [
  ['Ctrl+K', 'Open or do anything: products, rows, items, configurations, pages'],
  ['/', 'Search what is on the page'],
  ['Esc', 'Leave a field as it was; close a panel'],
  ['?', 'These keys'],
]

const workshop: Keys = [
  ['Ctrl+Z, Ctrl+Y', 'Undo your last edit of the model, redo it'],
  ['↑ ↓, Enter', 'Go from row to row, open or close one'],
  ['Shift+↑ ↓, Ctrl+click', 'Mark rows; Ctrl+A marks all'],
  ['Ctrl+C, Ctrl+X, Ctrl+V', 'Copy, cut and paste rows, also into another model or tab'],
  ['Ctrl+D, Delete', 'Double rows, delete them'],
  ['Alt+↑, Alt+↓', 'Move rows, over topics too'],
  ['F2, Shift+F12', 'Rename, show where it is used: on a row, or on a name in an expression'],
  ['Ctrl+click', 'In an expression: go to what a name stands for'],
  ['Tab, Ctrl+Space', 'In an expression or a new row: take what is offered, show what can stand here'],
  ['Alt+Enter', 'Mend what is marked in an expression or a new row'],
]

const tables: Keys = [
  ['letters, F2, Esc', 'Type over a cell, edit what stands there, give it back'],
  ['Enter, Tab, arrows', 'Go on; with Shift the arrows mark, with Ctrl they go to the end'],
  ['Ctrl+Z, Ctrl+Y', 'Undo and redo what was done in this table'],
  ['Ctrl+C, Ctrl+X, Ctrl+V', 'Copy, cut and paste cells, also from a spreadsheet'],
  ['Ctrl+D, Ctrl+R, Delete', 'Fill down, fill to the right, clear'],
  ['Ctrl+Enter, Ctrl+Delete', 'Add a row, delete the marked ones'],
  ['Alt+↑, Alt+↓', 'Move the marked rows'],
  ['Esc, then Tab', 'Leave the table'],
]

const questions: Keys = [
  ['Tab', 'From question to question'],
  ['arrows', 'Among the values of a question, or along its dimension line'],
  ['Enter', 'Pick the value; on one that is ruled out: why?'],
  ['Esc', 'Close a reason'],
  ['Ctrl+Z, Ctrl+Shift+Z', 'When configuring: take back the last answer, give it again'],
]

/** The keys of the page one is on, first those that are of it alone. */
function partsOf(path: string): { title: string; keys: Keys }[] {
  const isWorkshop = /^\/workshop\/[^/]+$/.test(path)
  const of = [
    ...(isWorkshop ? [{ title: 'Rows and expressions', keys: workshop }] : []),
    ...(isWorkshop || path.startsWith('/library') ? [{ title: 'Tables', keys: tables }] : []),
    ...(isWorkshop || path.startsWith('/configure') || path.startsWith('/configurations/') ? [{ title: 'Questions', keys: questions }] : []),
  ]
  return [...of, { title: 'Everywhere', keys: everywhere }]
}

export function KeysSheet({ onClose }: { onClose: () => void }) {
  const { pathname } = useLocation()
  return (
    <Sheet title="Keys of this page" onClose={onClose} wide>
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
