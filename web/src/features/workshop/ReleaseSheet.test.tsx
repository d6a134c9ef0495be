import { screen, waitFor } from '@testing-library/react'
import userEvent from '@testing-library/user-event'
import { beforeAll, describe, expect, it, vi } from 'vitest'
import type { Schemas } from '../../api/client'
import { asked, showPage } from '../../testing/page'
import { problem } from '../../testing/server'
import { documentOf, finding, rows } from '../../testing/workshop'
import { ReleaseSheet } from './ReleaseSheet'
import { WorkshopContext, type Workshop } from './Workshop'

// The document of the tests knows no modal dialogs.
beforeAll(() => {
  HTMLDialogElement.prototype.showModal ??= function (this: HTMLDialogElement) {
    this.open = true
  }
})

const ready = { ready: true, ownDraft: false, findings: [], problems: [] }

function show(
  check: object,
  rights = ['read', 'release'],
  release: () => unknown = () => ({ id: 3, head: 7, state: 'released' }),
  { state = 'draft', answers = {} } = {},
) {
  const [close, goToRow] = [vi.fn(), vi.fn()]
  const page = (
    <WorkshopContext value={{ revisionId: 3, document: documentOf(rows.width, rows.area), goToRow } as unknown as Workshop}>
      <ReleaseSheet revision={{ id: 3, number: 2, head: 7, state } as Schemas['RevisionView']} onClose={close} />
    </WorkshopContext>
  )
  showPage(page, {
    rights,
    answers: {
      'GET /api/revisions/3/release': () => check,
      'POST /api/revisions/3/release': release,
      'GET /api/revisions/3/review': () => new Response(null, { status: 204 }),
      ...answers,
    },
  })
  return { close, goToRow }
}

describe('a release', () => {
  it('is of the very edit that was checked, and closes when it is done', async () => {
    const { close } = show(ready)
    expect(await screen.findByText(/at least one complete configuration exists/)).toBeTruthy()
    await userEvent.click(screen.getByRole('button', { name: 'Release it', hidden: true }))
    await waitFor(() => expect(close).toHaveBeenCalled())
    expect(asked('POST', '/api/revisions/3/release').map((r) => r.body)).toEqual([{ head: 7, note: '' }])
  })

  it('is not done with faults; each leads to its row', async () => {
    const { close, goToRow } = show({
      ...ready,
      ready: false,
      problems: ['No configuration is possible: §4.'],
      findings: [finding('area', 'expression', 'There is no “widht”.'), finding('finishes', 'values', 'The list has no values.')],
    })
    await screen.findByText('No configuration is possible: §4.')
    expect(screen.getByRole<HTMLButtonElement>('button', { name: 'Release it', hidden: true }).disabled).toBe(true)
    expect(screen.getByRole<HTMLButtonElement>('button', { name: 'The list has no values.', hidden: true }).disabled).toBe(true)
    await userEvent.click(screen.getByRole('button', { name: 'There is no “widht”.', hidden: true }))
    expect(goToRow).toHaveBeenCalledWith('door', 'area')
    expect(close).toHaveBeenCalled()
  })

  it('is not for the author of the draft, nor for who is no approver', async () => {
    show({ ...ready, ownDraft: true })
    expect(await screen.findByText('A revision is released by someone else than its author.')).toBeTruthy()
    expect(screen.getByRole<HTMLButtonElement>('button', { name: 'Release it', hidden: true }).disabled).toBe(true)
    show(ready, ['read', 'edit'])
    expect(await screen.findByText(/An approver releases it/)).toBeTruthy()
    expect(screen.getAllByRole('button', { name: 'Release it', hidden: true })).toHaveLength(1)
  })

  it('tells where the draft has changed meanwhile, and stays open', async () => {
    const { close } = show(ready, undefined, () => problem(409, 'The draft has changed since you looked at it. Look again, then release.'))
    await userEvent.click(await screen.findByRole('button', { name: 'Release it', hidden: true }))
    expect(await screen.findByText(/The draft has changed since you looked/)).toBeTruthy()
    expect(close).not.toHaveBeenCalled()
  })

  const review = {
    askedBy: 'ines',
    askedAt: '2026-11-24T10:00:00Z',
    note: 'New floor.',
    outcome: null,
    answeredBy: null,
    answeredAt: null,
    answer: '',
  }
  const button = (name: string) => screen.getByRole<HTMLButtonElement>('button', { name, hidden: true })
  const done = () => new Response(null, { status: 204 })

  it('is asked for by who wrote it, with a note', async () => {
    const { close } = show(ready, ['read', 'edit'], undefined, { answers: { 'POST /api/revisions/3/review': done } })
    await userEvent.type(await screen.findByRole('textbox', { name: 'What the approver should know', hidden: true }), 'New floor.')
    await userEvent.click(button('Ask for its release'))
    await waitFor(() => expect(close).toHaveBeenCalled())
    expect(asked('POST', '/api/revisions/3/review').map((r) => r.body)).toEqual([{ head: 7, note: 'New floor.' }])
  })

  it('that was asked for is taken back by who wrote it', async () => {
    const { close } = show({ ...ready, ownDraft: true }, ['read', 'edit'], undefined, {
      state: 'in review',
      answers: { 'GET /api/revisions/3/review': () => review, 'DELETE /api/revisions/3/review': done },
    })
    expect(await screen.findByText(/“New floor.”/)).toBeTruthy()
    expect(screen.queryByRole('button', { name: 'Ask for its release', hidden: true })).toBeNull()
    await userEvent.click(button('Take it back to edit it'))
    await waitFor(() => expect(close).toHaveBeenCalled())
  })

  it('is sent back by an approver only with a reason', async () => {
    const { close } = show(ready, ['read', 'release'], undefined, {
      state: 'in review',
      answers: { 'GET /api/revisions/3/review': () => review, 'POST /api/revisions/3/review/return': done },
    })
    await screen.findByText(/“New floor.”/)
    expect(button('Send it back').disabled).toBe(true)
    await userEvent.type(screen.getByRole('textbox', { name: 'What is new in it for who uses it; or why it goes back', hidden: true }), 'No posts.')
    await userEvent.click(button('Send it back'))
    await waitFor(() => expect(close).toHaveBeenCalled())
    expect(asked('POST', '/api/revisions/3/review/return').map((r) => r.body)).toEqual([{ note: 'No posts.' }])
  })
})
