import { beforeEach, describe, expect, it, vi } from 'vitest'
import { listLinks, search, showLink, makeLink } from '#shared/api/links'
import type { Refused } from '~/composables/useApi'
import { callApi } from '~/composables/useApi'
import { streamApi } from '~/composables/useStream'
import { useSession } from '~/stores/session'
import { answerWith, refusal, startAnew } from './support'

beforeEach(startAnew)

const refusedBy = (work: Promise<unknown>) =>
  work.then(
    () => null,
    (why: unknown) => why as Refused,
  )

describe('a call', () => {
  it('goes where its operation says, with what was given', async () => {
    const heard = answerWith(() => ({ total: 0, offset: 0, items: [] }))
    await callApi(listLinks, { query: { find: 'arm 1', sort: '-name', limit: null } })
    await callApi(showLink, { params: { id: 7 } })
    await callApi(makeLink, { body: { name: 'Arm' } })
    expect(heard).toEqual([
      { method: 'GET', path: '/links', query: { find: 'arm 1', sort: '-name' }, body: undefined },
      { method: 'GET', path: '/links/7', query: {}, body: undefined },
      { method: 'POST', path: '/links', query: {}, body: { name: 'Arm' } },
    ])
  })

  it('that is refused throws the fault, the fields and what else was said', async () => {
    const current = { id: 7 }
    answerWith(() => refusal('entry.invalid', { count: 1 }, { fields: [{ path: 'name', message: 'A link needs a name.' }], current }))
    const refused = await refusedBy(callApi(makeLink, { body: {} }))
    expect(refused).toMatchObject({ why: { code: 'entry.invalid' }, fields: [{ path: 'name' }], more: { current } })
  })

  it('that nobody answers, or that something else answers, says so in the catalogue’s words', async () => {
    vi.stubGlobal('fetch', () => Promise.reject(new TypeError('Failed to fetch')))
    expect(await refusedBy(callApi(listLinks))).toMatchObject({ why: { code: 'web.away' } })
    answerWith(() => new Response('<html>Bad gateway</html>', { status: 502, statusText: 'Bad Gateway' }))
    expect(await refusedBy(callApi(listLinks))).toMatchObject({ why: { code: 'web.away', evidence: '502 Bad Gateway' } })
  })

  it('whose session has ended keeps the page and says that it is lost', async () => {
    const session = useSession()
    answerWith(() => ({ name: 'Pilot', role: 'look', mustChange: false }))
    await session.load()
    answerWith(() => refusal('access.sign-in', {}, {}, 401))
    expect(await refusedBy(callApi(listLinks))).toMatchObject({ why: { code: 'access.sign-in' } })
    expect(session).toMatchObject({ lost: true, who: { name: 'Pilot' } })
  })
})

describe('an answer in lines', () => {
  const inPieces = (...pieces: string[]) =>
    new Response(
      new ReadableStream({
        start(stream) {
          for (const piece of pieces) stream.enqueue(new TextEncoder().encode(piece))
          stream.close()
        },
      }),
    )
  const parts = async () => {
    const seen: unknown[] = []
    for await (const part of streamApi(search, { params: { id: 1 }, body: { text: 'boom' } }, new AbortController().signal)) seen.push(part)
    return seen
  }

  it('comes part by part, wherever the pieces are cut', async () => {
    answerWith(() => inPieces('{"look', 'ed":1}\n{"looked":2', '}\n', '{"looked":3}\n'))
    expect(await parts()).toEqual([{ looked: 1 }, { looked: 2 }, { looked: 3 }])
  })

  it('ends with the fault that came on the way', async () => {
    answerWith(() => inPieces('{"looked":1}\n', '{"fault":{"code":"link.off"}}\n'))
    expect(await refusedBy(parts())).toMatchObject({ why: { code: 'link.off' } })
  })

  it('that is refused at once throws that', async () => {
    answerWith(() => refusal('entry.gone', { thing: 'link', id: 1 }, {}, 404))
    expect(await refusedBy(parts())).toMatchObject({ why: { code: 'entry.gone' } })
  })
})
