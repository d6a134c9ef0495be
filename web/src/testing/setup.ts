import { cleanup, configure } from '@testing-library/react'
import { afterEach, beforeEach, vi } from 'vitest'
import { server, Stream } from './server'

// A busy machine is no fault.
configure({ asyncUtilTimeout: 15_000 })

// The API's client takes what is there when it is first loaded.
globalThis.fetch = async (input, init) => {
  const request = new Request(input, init)
  const body = await request.text()
  const asked = { method: request.method, path: new URL(request.url).pathname, search: new URL(request.url).search, body: body === '' ? null : (JSON.parse(body) as unknown) }
  server.requests.push(asked)
  return server.answer(asked)
}
vi.stubGlobal('EventSource', Stream)

beforeEach(() => {
  server.requests = []
  Stream.opened = []
  localStorage.clear()
})
afterEach(cleanup)
