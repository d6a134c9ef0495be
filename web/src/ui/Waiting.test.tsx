import { QueryClient, QueryClientProvider } from '@tanstack/react-query'
import { render, screen } from '@testing-library/react'
import { expect, it } from 'vitest'
import { json, server } from '../testing/server'
import { Waiting } from './Waiting'

const show = (ahead: number) => {
  server.answer = () => json({ running: 2, waiting: 3, ahead })
  render(
    <QueryClientProvider client={new QueryClient()}>
      <Waiting />
    </QueryClientProvider>,
  )
}

it.each([
  [0, 'Still being worked out.'],
  [1, 'Waiting its turn: one other person has one first.'],
  [4, 'Waiting its turn: 4 others have one first.'],
])('with %i ahead it says so after a moment, and nothing before', async (ahead, sentence) => {
  show(ahead)
  expect(screen.queryByRole('status')).toBeNull()
  expect(await screen.findByText(sentence, {}, { timeout: 4_000 })).toBeTruthy()
})
