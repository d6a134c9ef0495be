import { roving } from './roving'

/** Views of the same thing, one of which is shown: one stop of Tab, arrows go among them. */
export function Tabs<K extends string>({
  label,
  tabs,
  shown,
  onShow,
}: {
  label: string
  tabs: readonly (readonly [K, string])[]
  shown: K
  onShow: (key: K) => void
}) {
  const chosen = tabs.findIndex(([key]) => key === shown)
  return (
    <div role="tablist" aria-label={label} className="tabs tabs-border" onKeyDown={roving.onKeyDown} onBlur={roving.onBlur}>
      {tabs.map(([key, name], i) => (
        <button
          key={key}
          role="tab"
          aria-selected={key === shown}
          tabIndex={roving.tabIndexOf(i, chosen)}
          className={`tab ${key === shown ? 'tab-active' : ''}`}
          onClick={() => onShow(key)}
        >
          {name}
        </button>
      ))}
    </div>
  )
}
