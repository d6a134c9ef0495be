import { act, fireEvent, render, screen, waitFor } from '@testing-library/react'
import userEvent from '@testing-library/user-event'
import { useState } from 'react'
import { describe, expect, it, vi } from 'vitest'
import { DimensionLine } from './DimensionLine'
import { nameAt } from './ExpressionField'
import { SearchField } from './SearchField'
import { TextField } from './TextField'

describe('a text field', () => {
  it('keeps what was typed on Enter and on leaving, once, with what stood there before', async () => {
    const keep = vi.fn()
    render(<TextField aria-label="Name" value="wall" onCommit={keep} />)
    const field = screen.getByRole('textbox', { name: 'Name' })
    await userEvent.type(field, 's{Enter}')
    expect(keep.mock.calls).toEqual([['walls', 'wall']])
    await userEvent.tab()
    expect(keep).toHaveBeenCalledTimes(1)
  })

  it('takes back what was typed on Escape', async () => {
    const keep = vi.fn()
    render(<TextField aria-label="Name" value="wall" onCommit={keep} />)
    await userEvent.type(screen.getByRole('textbox'), 'xyz{Escape}')
    expect(screen.getByRole('textbox')).toHaveProperty('value', 'wall')
    await userEvent.tab()
    expect(keep).not.toHaveBeenCalled()
  })

  it('leaves typing alone when others change the value, and tells what it was when typing began', async () => {
    const keep = vi.fn()
    const page = render(<TextField aria-label="Name" value="8" onCommit={keep} />)
    await userEvent.type(screen.getByRole('textbox'), '0')
    page.rerender(<TextField aria-label="Name" value="9" onCommit={keep} />)
    expect(screen.getByRole('textbox')).toHaveProperty('value', '80')
    await userEvent.keyboard('{Enter}')
    expect(keep.mock.calls).toEqual([['80', '8']])
    expect(screen.getByRole('textbox')).toHaveProperty('value', '9')
  })
})

describe('a search field', () => {
  /** A page whose list follows late, as one that keeps its search in the address does. */
  function Page({ late, told, go }: { late: number; told: (text: string) => void; go?: { to: (text: string) => void } }) {
    const [search, setSearch] = useState('')
    if (go) go.to = setSearch
    return (
      <SearchField
        label="Search items"
        value={search}
        onChange={(text) => {
          told(text)
          setTimeout(() => setSearch(text), late)
        }}
      />
    )
  }

  it('keeps every letter at any speed, and tells of it at once', async () => {
    const told = vi.fn()
    render(<Page late={60} told={told} />)
    const field = screen.getByRole<HTMLInputElement>('searchbox', { name: 'Search items' })
    for (const delay of [0, 10, 40, 90]) {
      await userEvent.clear(field)
      await userEvent.setup({ delay }).type(field, `gasket ${delay}`)
      expect(field.value).toBe(`gasket ${delay}`)
      await waitFor(() => expect(told).toHaveBeenLastCalledWith(`gasket ${delay}`))
    }
    await userEvent.type(field, 's')
    expect(told).toHaveBeenLastCalledWith('gasket 90s')
    expect(field.value).toBe('gasket 90s')
  })

  it('shows what something else has set, such as going back', async () => {
    const [told, go] = [vi.fn(), { to: (text: string) => void text }]
    render(<Page late={0} told={told} go={go} />)
    const field = screen.getByRole<HTMLInputElement>('searchbox', { name: 'Search items' })
    await userEvent.type(field, 'door')
    await waitFor(() => expect(told).toHaveBeenCalledWith('door'))
    act(() => go.to('frame'))
    await waitFor(() => expect(field.value).toBe('frame'))
  })
})

describe('a dimension line', () => {
  const line = (value: string | null, change: (v: string) => void, members: string[] | null = null) => (
    <DimensionLine
      label="Width"
      unit="mm"
      min="600"
      max="1200"
      step="50"
      lowest="700"
      highest="1100"
      members={members}
      value={value}
      strong
      onChange={change}
    />
  )

  it('goes by steps with the keys and stays within the bounds', () => {
    const change = vi.fn()
    render(line('1150', change))
    const slider = screen.getByRole('slider', { name: 'Width' })
    for (const key of ['ArrowRight', 'ArrowLeft', 'PageUp', 'PageDown', 'a']) fireEvent.keyDown(slider, { key })
    expect(change.mock.calls.flat()).toEqual(['1200', '1100', '1200', '650'])
  })

  it('starts from the lowest that can be had where nothing is picked, and says what can be had', () => {
    const change = vi.fn()
    render(line(null, change))
    const slider = screen.getByRole('slider')
    expect(slider.getAttribute('aria-valuetext')).toBe('open')
    expect(slider.title).toBe('700 … 1100 mm can be had, of 600 … 1200 mm')
    fireEvent.keyDown(slider, { key: 'ArrowUp' })
    expect(change).toHaveBeenCalledWith('750')
  })

  it('draws each number where only some can be had', () => {
    const { container } = render(line('700', () => undefined, ['700', '900', '1100']))
    const single = render(line('700', () => undefined))
    expect(container.querySelectorAll('path').length).toBe(single.container.querySelectorAll('path').length + 2)
  })
})

it('finds the name that a place in an expression lies in', () => {
  const text = "if 'clear width' > 2 m then ströme"
  expect(nameAt(text, 5)).toEqual({ from: 3, to: 16 })
  expect(nameAt(text, text.length)).toEqual({ from: 28, to: 34 })
  expect(nameAt(text, 18)).toBeNull()
  expect(nameAt('', 0)).toBeNull()
})
