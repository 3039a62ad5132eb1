import { createPinia, setActivePinia } from 'pinia'
import { mount, type VueWrapper } from '@vue/test-utils'
import { reactive } from 'vue'
import { vi } from 'vitest'
import { fault, type FaultCode } from '#core/faults/catalogue'

/** What stands around a page in the browser, without one: routes, and a server that answers as it is told. */

export const visited: string[] = []
export const navigateTo = (path: string) => {
  visited.push(path)
  return Promise.resolve()
}
export const useRoute = () => reactive({ query: {}, params: {} })
export const onBeforeRouteLeave = () => {}

interface Asked {
  method: string
  path: string
  query: Record<string, string>
  body: unknown
}
type Answering = (asked: Asked) => unknown

/** Takes the place of the server. @returns everything that it was asked. */
export const answerWith = (answer: Answering): Asked[] => {
  const heard: Asked[] = []
  vi.stubGlobal('fetch', async (address: string, { method, body }: { method: string; body?: string }) => {
    const url = new URL(address, 'http://site')
    const asked = {
      method,
      path: url.pathname.replace('/api', ''),
      query: Object.fromEntries(url.searchParams),
      body: body && (JSON.parse(body) as unknown),
    }
    heard.push(asked)
    const given = await answer(asked)
    return given instanceof Response ? given : new Response(JSON.stringify(given))
  })
  return heard
}

/** A refusal as the server sends it. */
export const refusal = (code: FaultCode, facts: object = {}, more: object = {}, status = 422) =>
  new Response(JSON.stringify({ fault: fault(code, facts as never), fields: [], ...more }), { status })

export const startAnew = () => {
  setActivePinia(createPinia())
  visited.length = 0
}

const pages: VueWrapper[] = []
/** Runs a composable as a component's set-up does; `leave` takes the component away. */
export const within = <T>(use: () => T): T => {
  let used!: T
  const setup = () => {
    used = use()
    return () => null
  }
  pages.push(mount({ setup }))
  return used
}
export const leave = () => pages.splice(0).forEach((page) => page.unmount())

/** Lets what was begun come to its end. */
export const settled = () => vi.advanceTimersByTimeAsync(0)

/** A websocket whose other end is the test. */
export class FakeSocket {
  static all: FakeSocket[] = []
  static readonly OPEN = 1
  readyState = 0
  said: Record<string, unknown>[] = []
  onopen: () => void = () => {}
  onclose: () => void = () => {}
  onmessage: (event: { data: string }) => void = () => {}

  constructor(readonly url: URL) {
    FakeSocket.all.push(this)
  }
  send(text: string) {
    this.said.push(JSON.parse(text) as Record<string, unknown>)
  }
  open() {
    this.readyState = FakeSocket.OPEN
    this.onopen()
  }
  drop() {
    this.readyState = 3
    this.onclose()
  }
  hear(message: object) {
    this.onmessage({ data: JSON.stringify(message) })
  }
}
