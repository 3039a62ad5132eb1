import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import { useLive } from '~/stores/live'
import { useLists } from '~/stores/lists'
import { useNotices } from '~/stores/notices'
import { useSession } from '~/stores/session'
import { answerWith, FakeSocket, refusal, settled, startAnew } from './support'

beforeEach(() => {
  startAnew()
  vi.useFakeTimers()
  FakeSocket.all = []
  vi.stubGlobal('WebSocket', FakeSocket)
  vi.stubGlobal('requestAnimationFrame', (work: () => void) => setTimeout(work, 16))
})
afterEach(() => vi.useRealTimers())

const value = (id: number, of = 1) => ({ id, value: of, type: 'int16', quality: 0, sourceTime: 0, seenAt: 0 })

describe('what is live', () => {
  it('is asked for by what is on screen, and what is no longer shown is forgotten', async () => {
    const live = useLive()
    const [socket] = FakeSocket.all as [FakeSocket]
    live.show('list', [1, 2])
    expect(socket.said).toEqual([])
    socket.open()
    live.showOrigin(7)
    expect(socket.said.at(-1)).toEqual({ say: 'watch', tags: [1, 2, 7], origin: 7 })
    socket.hear({ say: 'values', batch: 4, values: [value(1), value(2)], origin: { tag: 7, origin: null } })
    expect(live.origin?.tag).toBe(7)
    await vi.advanceTimersByTimeAsync(20)
    expect(socket.said.at(-1)).toEqual({ say: 'taken', batch: 4 })
    live.show('list', [2])
    expect([...live.values.keys()]).toEqual([2])
  })

  it('connects again by itself, ever less often, and asks for the same', async () => {
    const live = useLive()
    live.show('list', [5])
    FakeSocket.all[0]!.open()
    FakeSocket.all[0]!.hear({ say: 'status', status: null })
    expect([live.connected, live.engineAway]).toEqual([true, true])
    const before = live.changes
    FakeSocket.all[0]!.drop()
    expect([live.connected, live.status]).toEqual([false, null])
    await vi.advanceTimersByTimeAsync(250)
    FakeSocket.all[1]!.drop()
    await vi.advanceTimersByTimeAsync(240)
    expect(FakeSocket.all).toHaveLength(2)
    await vi.advanceTimersByTimeAsync(270)
    FakeSocket.all[2]!.open()
    expect(FakeSocket.all[2]!.said).toEqual([{ say: 'watch', tags: [5], origin: null }])
    expect(live.changes).toBeGreaterThan(before)
  })
})

describe('the lists', () => {
  it('come anew with every change, and stay when they cannot be had', async () => {
    let names = ['Arm']
    answerWith(({ path }) =>
      path === '/site' ? { name: 'Port', revision: 1 } : { total: 1, offset: 0, items: names.map((name, id) => ({ id, name })) },
    )
    const live = useLive()
    const lists = useLists()
    await settled()
    expect([lists.linkName(0), lists.siteName, lists.loaded]).toEqual(['Arm', 'Port', true])
    names = ['Arm', 'Crane']
    live.changes++
    await settled()
    expect(lists.links).toHaveLength(2)
    answerWith(() => refusal('database.away', {}, {}, 503))
    live.changes++
    await settled()
    expect([lists.links.length, lists.linkName(9)]).toEqual([2, '—'])
  })
})

describe('a notice', () => {
  it('goes on with what became of the revision, unless another one stands there', async () => {
    const waiting: ((effect: unknown) => void)[] = []
    answerWith(() => new Promise((resolve) => waiting.push(resolve)))
    const notices = useNotices()
    notices.tell('Link saved.', 4)
    const { turn } = notices
    notices.tell('Tag saved.', 5)
    await settled()
    // what is shown by the turn is shown for its own time
    expect(notices.turn).toBe(turn + 1)
    waiting[0]!({ revision: 4, state: 'in force', node: 'quay-1', waits: [], things: [] })
    await settled()
    expect(notices.text).toBe('Tag saved.')
    const why = { what: 'The port is taken.', next: 'Choose another.' }
    waiting[1]!({ revision: 5, state: 'in part', node: 'quay-1', things: [{ fault: why }, { fault: why }] })
    await settled()
    expect(notices).toMatchObject({
      text: 'Tag saved. Not in force in 2 parts: The port is taken. Choose another.',
      isProblem: true,
      turn: turn + 1,
    })
  })

  it('takes its revision back, or says why that cannot be', async () => {
    const heard = answerWith(({ path }) =>
      path.endsWith('take-back')
        ? refusal('entry.cannot-take-back', { which: '4', reason: 'it has changed since.' })
        : { state: 'not yet', things: [] },
    )
    const notices = useNotices()
    notices.tell('Link saved.', 4)
    await notices.takeBack()
    expect(heard.some(({ method, path }) => method === 'POST' && path === '/revisions/4/take-back')).toBe(true)
    expect(notices.isProblem).toBe(true)
    expect(notices.text).toContain('4')
  })
})

describe('the session', () => {
  it('may do what its role may; nobody may do nothing', async () => {
    const session = useSession()
    expect(session.can('look')).toBe(false)
    answerWith(() => ({ name: 'Pilot', role: 'operate', mustChange: false }))
    await session.signIn('Pilot', 'x')
    expect(['look', 'operate', 'configure'].map((role) => session.can(role as 'look'))).toEqual([true, true, false])
  })

  it('is none for a stranger, and unknown where the server is away', async () => {
    const session = useSession()
    answerWith(() => refusal('access.sign-in', {}, {}, 401))
    await session.load()
    expect([session.who, session.asked]).toEqual([null, true])
    answerWith(() => refusal('database.away', {}, {}, 503))
    await expect(session.load()).rejects.toMatchObject({ why: { code: 'database.away' } })
  })
})
