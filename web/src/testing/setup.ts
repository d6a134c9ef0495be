import { cleanup, configure } from '@testing-library/react'
import { afterEach, beforeEach, vi } from 'vitest'
import { server, Stream } from './server'

// A busy machine is no fault.
configure({ asyncUtilTimeout: 15_000 })

// The API's client takes what is there when it is first loaded.
globalThis.fetch = async (input, init) => {
  // A file goes as it is; its address may be short.
  const request = new Request(typeof input === 'string' ? new URL(input, location.href) : input, init)
  const body = await request.text()
  const asked = {
    method: request.method,
    path: new URL(request.url).pathname,
    search: new URL(request.url).search,
    body: body === '' ? null : request.headers.get('Content-Type')?.includes('json') ? (JSON.parse(body) as unknown) : body,
  }
  server.requests.push(asked)
  return server.answer(asked)
}
vi.stubGlobal('EventSource', Stream)

beforeEach(() => {
  server.requests = []
  Stream.opened = []
  localStorage.clear()
  sessionStorage.clear()
})
afterEach(cleanup)
