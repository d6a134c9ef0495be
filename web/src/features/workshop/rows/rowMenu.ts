import type { MenuEntry } from '../../../ui/ContextMenu'
import { inEnglish } from '../../../ui/format'
import type { Assembly, Row, Topic } from '../model'
import type { RowActions } from './useRowActions'
import { t } from '../../../texts'

type MenuOf = { row: Row; topic: Topic; assembly: Assembly; rows: RowActions; mayEdit: boolean; open: boolean; toggle: () => void; uses: () => void }

/** The menu of a row: the same as its keys, for all that are marked with it. */
export function rowMenu({ row, topic, assembly, rows, mayEdit, open, toggle, uses }: MenuOf): MenuEntry[] {
  const count = rows.marks.of(row.id).length
  const those = count > 1 ? t('workshop.nRows', { n: count }) : t('workshop.row')
  const clip = (what: 'copy' | 'cut') => document.execCommand(what)
  return [
    { label: open ? t('workshop.close') : t('workshop.open'), keys: 'Enter', act: toggle },
    { label: t('workshop.rename'), keys: 'F2', disabled: !mayEdit, act: () => rows.rename(row) },
    { label: t('workshop.whereItIsUsed'), keys: 'Shift+F12', act: uses },
    'line',
    { label: t('workshop.copyThose', { those }), keys: 'Ctrl+C', act: () => clip('copy') },
    { label: t('workshop.cutThose', { those }), keys: 'Ctrl+X', disabled: !mayEdit, act: () => clip('cut') },
    { label: t('workshop.doubleThose', { those }), keys: 'Ctrl+D', disabled: !mayEdit, act: () => rows.duplicate(row) },
    'line',
    { label: t('workshop.moveUp'), keys: 'Alt+↑', disabled: !mayEdit, act: () => rows.moveBy(row, -1) },
    { label: t('workshop.moveDown'), keys: 'Alt+↓', disabled: !mayEdit, act: () => rows.moveBy(row, 1) },
    ...assembly.topics
      .filter((other) => other.id !== topic.id)
      .slice(0, 12)
      .map((other) => ({
        label: t('workshop.toTopicLabel', { label: inEnglish(other.label) }),
        disabled: !mayEdit,
        act: () => rows.moveToTopic(row, other),
      })),
    'line',
    { label: t('workshop.deleteThose', { those }), keys: 'Delete', disabled: !mayEdit, act: () => rows.remove(row) },
  ]
}
