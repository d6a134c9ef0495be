import { NavLink } from 'react-router'
import { t } from '../../texts'

const tabs = [
  { to: '/people', label: t('people.people') },
  { to: '/people/audit', label: t('people.whatHappened') },
]

export const PeopleTabs = () => (
  <nav aria-label={t('people.peopleAndWhatHappened')} className="tabs tabs-border">
    {tabs.map(({ to, label }) => (
      <NavLink key={to} to={to} end className={({ isActive }) => `tab ${isActive ? 'tab-active' : ''}`}>
        {label}
      </NavLink>
    ))}
  </nav>
)
