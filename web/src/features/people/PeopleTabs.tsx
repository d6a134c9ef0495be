import { NavLink } from 'react-router'
import { t } from '../../texts'

const tabs = [
  { to: '/people', label: t('people.people') },
  { to: '/people/audit', label: t('people.whatHappened') },
]

export const PeopleTabs = () => (
  <nav aria-label={t('people.peopleAndWhatHappened')} className="flex gap-4 border-b hair">
    {tabs.map(({ to, label }) => (
      <NavLink
        key={to}
        to={to}
        end
        className={({ isActive }) => `-mb-px border-b-2 py-1 ${isActive ? 'border-primary font-semibold' : 'border-transparent quiet'}`}
      >
        {label}
      </NavLink>
    ))}
  </nav>
)
