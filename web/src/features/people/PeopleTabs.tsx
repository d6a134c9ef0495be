import { NavLink } from 'react-router'

const tabs = [
  { to: '/people', label: 'People' },
  { to: '/people/audit', label: 'What happened' },
]

export const PeopleTabs = () => (
  <nav aria-label="People and what happened" className="flex gap-4 border-b hair">
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
