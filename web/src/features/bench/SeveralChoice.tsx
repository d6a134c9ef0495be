import type { Member } from '../../api/answer'
import { roving } from '../../ui/roving'
import { t } from '../../texts'

/** The values of several choices, each in or out. One that cannot be changed tells why. */
export function SeveralChoice({
  label,
  members,
  onPick,
  onWhy,
}: {
  label: string
  members: Member[]
  onPick: (path: string, value: string | null) => void
  onWhy: (member: Member, value: string) => void
}) {
  return (
    <div role="group" aria-label={label} className="flex flex-wrap gap-x-1 gap-y-1" onKeyDown={roving.onKeyDown} onBlur={roving.onBlur}>
      {members.map((m, i) => (
        <One key={m.path} tabIndex={roving.tabIndexOf(i, 0)} member={m} onPick={onPick} onWhy={onWhy} />
      ))}
    </div>
  )
}

function One({
  member,
  tabIndex,
  onPick,
  onWhy,
}: {
  member: Member
  tabIndex: number
  onPick: (path: string, value: string | null) => void
  onWhy: (member: Member, value: string) => void
}) {
  const chosen = member.chosen === true
  const wanted = !chosen
  const can = wanted ? member.canBeIn : member.canBeOut
  const picked = member.state === 'picked'
  const look =
    member.state === 'clash'
      ? 'border-warning text-warning'
      : chosen
        ? picked
          ? 'border-primary bg-primary text-primary-content'
          : 'border-primary text-primary'
        : member.unknown
          ? 'hair border-dotted quiet hover:border-primary'
          : can
            ? 'hair hover:border-primary'
            : 'border-transparent quiet'
  const text =
    member.state === 'suggested' && chosen
      ? 'underline decoration-dotted underline-offset-4'
      : picked && !chosen
        ? 'line-through'
        : !can && !chosen
          ? 'opacity-75'
          : ''
  return (
    <button
      type="button"
      role="checkbox"
      tabIndex={tabIndex}
      aria-checked={member.chosen === null ? 'mixed' : chosen}
      aria-label={
        member.unknown
          ? t('bench.labelNotKnownYet', { label: member.label })
          : can
            ? member.label
            : t('bench.labelChosenWhy', { label: member.label, chosen: chosen ? t('bench.alwaysIn') : t('bench.ruledOut') })
      }
      title={member.unknown ? t('bench.notKnownYetWhetherItCan') : can ? undefined : chosen ? t('bench.itHasToBeInWhy') : t('bench.ruledOutWhy')}
      onClick={() => {
        if (!can) onWhy(member, 'yes')
        // Going back to what is suggested anyway needs no pick.
        else onPick(member.path, picked && wanted === member.suggested ? null : wanted ? 'yes' : 'no')
      }}
      className={`relative flex min-h-6.5 items-center gap-1.5 border px-2 pointer-coarse:min-h-10 ${look}`}
    >
      <svg viewBox="0 0 10 10" aria-hidden className="size-2.5" fill="none" stroke="currentColor" strokeWidth="1.3">
        <path d={member.chosen === null ? 'M1 1h8v8h-8zM3 5h4' : 'M1 1h8v8h-8z'} />
        {chosen && <path d="M2.5 5.2 4.4 7.2 7.8 2.8" strokeWidth="1.6" />}
      </svg>
      {member.color && <span aria-hidden className="size-3 border border-black/25" style={{ background: member.color }} />}
      <span className={text}>{member.label}</span>
      {!can && (
        <svg viewBox="0 0 7 7" aria-hidden className="absolute top-0 right-0 size-[7px]">
          <path d="M0 0h7v7z" fill="currentColor" />
        </svg>
      )}
    </button>
  )
}
