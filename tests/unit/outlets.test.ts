import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { parseRequest, requestText } from '#core/outlets/request'
import { FolderRules, lesser, rights, type FolderRule } from '#core/outlets/rules'
import { dataTypes } from '#core/tags/types'
import { ageText, wholeSeconds } from '#core/text/duration'
import { cardOf, cardText } from '#shared/outlets/card'
import { namesOf } from '#shared/outlets/names'
import { outletContract, type Outlet } from '#shared/outlets/outlet'

const part = fc.string({ unit: fc.constantFrom(...'ab1 é'), minLength: 1, maxLength: 3 })
const path = fc.array(part, { minLength: 1, maxLength: 4 }).map((parts) => parts.join('/'))
const rule = fc.record({ folder: fc.oneof(fc.constant(''), path), may: fc.constantFrom(...rights) })
const rules = fc.uniqueArray(rule, { maxLength: 6, selector: ({ folder }) => folder })

describe('rights by folder', () => {
  const berths: FolderRule[] = [
    { folder: '', may: 'read' },
    { folder: 'berth/1', may: 'write' },
    { folder: 'berth/1/shore', may: 'nothing' },
  ]

  it('follow the closest folder, and a folder of like beginning is another one', () => {
    const at = new FolderRules(berths)
    expect(['horn', 'berth/1/limit', 'berth/1/shore', 'berth/1/shore/power', 'berth/10/limit'].map((one) => at.at(one))).toEqual([
      'read',
      'write',
      'nothing',
      'nothing',
      'read',
    ])
    expect(new FolderRules([{ folder: 'berth', may: 'write' }]).at('horn')).toBe('nothing')
  })

  it('are those of the longest folder that the path lies in', () => {
    fc.assert(
      fc.property(rules, path, (all, one) => {
        const over = all.filter(({ folder }) => folder === '' || one === folder || one.startsWith(`${folder}/`))
        const closest = over.sort((a, b) => b.folder.length - a.folder.length)[0]
        expect(new FolderRules(all).at(one)).toBe(closest?.may ?? 'nothing')
      }),
    )
  })

  it('open every folder on the way to something that may be read', () => {
    fc.assert(
      fc.property(rules, path, (all, one) => {
        const compiled = new FolderRules(all)
        if (compiled.at(one) === 'nothing') return
        for (let at = one; at.includes('/'); at = at.slice(0, at.lastIndexOf('/')))
          expect(compiled.opens(at.slice(0, at.lastIndexOf('/')))).toBe(true)
      }),
    )
  })

  it('add up to the lesser', () => {
    expect(lesser('read', 'write')).toBe('read')
    expect(lesser('write', 'nothing')).toBe('nothing')
  })
})

describe('a point on request', () => {
  it('is named by link, address and type; an address may hold the sign that divides them', () => {
    expect(parseRequest('Berth meters|12:holding/40|float32|500')).toEqual({
      ok: true,
      request: { link: 'Berth meters', address: '12:holding/40', type: 'float32', interval: 500 },
    })
    expect(parseRequest(' arm | nsu=urn:x;s=a|b | int16[] ')).toMatchObject({
      request: { link: 'arm', address: 'nsu=urn:x;s=a|b', type: 'int16[]', interval: null },
    })
  })

  it('comes back from its text', () => {
    const word = fc.string({ unit: fc.constantFrom(...'aB1:/;= '), minLength: 1, maxLength: 8 }).filter((text) => text.trim() === text)
    const request = fc.record({
      link: word,
      address: word,
      type: fc.constantFrom(...dataTypes),
      interval: fc.option(fc.integer({ min: 10, max: 86_400_000 })),
    })
    fc.assert(fc.property(request, (one) => void expect(parseRequest(requestText(one))).toEqual({ ok: true, request: one })))
  })

  it.each([
    ['', /not of the form/],
    ['a|b', /not of the form/],
    ['|holding/1|bool', /the link before the first/],
    ['a||bool', /the address is missing/],
    ['a|b|word', /“word” is no type/],
    ['a|b|bool|9', /10 to 86400000 ms, and this is 9/],
  ])('like “%s” is told what is wrong with it', (text, problem) => {
    const parsed = parseRequest(text)
    expect(parsed.ok ? '' : parsed.problem).toMatch(problem)
  })
})

const outletOf = (settings: object): Outlet => ({
  ...outletContract.parse({ name: 'To the control room', kind: 'opcua-server', settings }),
  id: 1,
  revision: 1,
})
const problemsOf = (settings: object) =>
  (outletContract.safeParse({ name: 'x', kind: 'opcua-server', settings }).error?.issues ?? []).map((issue) => issue.path.join('.'))

describe('the contract of an outlet', () => {
  it('takes nothing that would let nobody in, or a password travel in the clear', () => {
    expect(problemsOf({ doors: [{ anonymous: false }] })).toEqual(['settings.doors.0.names'])
    expect(problemsOf({ doors: [{ names: true }] })).toEqual(['settings.doors.0.policies'])
    expect(problemsOf({ doors: [{ names: true, policies: ['None', 'Basic256Sha256'] }] })).toEqual([])
  })

  it('takes each folder once, in its plain form', () => {
    expect(outletOf({ shows: [{ folder: '/berth/1/', may: 'read' }] }).settings).toMatchObject({
      shows: [{ folder: 'berth/1', may: 'read' }],
    })
    const twice = [
      { folder: 'berth', may: 'read' },
      { folder: 'berth/', may: 'write' },
    ]
    expect(problemsOf({ shows: twice })).toEqual(['settings.shows.1.folder'])
    expect(problemsOf({ anonymous: [] })).toEqual(['settings.anonymous'])
  })

  it('holds own short names to what the consumer takes', () => {
    expect(problemsOf({ shortNames: { most: 12, own: [{ path: 'a', name: 'much_too_long_for_it' }] } })).toEqual([
      'settings.shortNames.own.0.name',
    ])
  })
})

describe('short names of an outlet', () => {
  it('are given to tags and folders, and do not follow what is shown', () => {
    const tags = [
      { id: 1, path: 'berth/1/power' },
      { id: 2, path: 'berth/2/power' },
    ]
    const { byPath } = namesOf(tags, { on: true, most: 64, own: [{ path: 'berth/2', name: 'B2' }] })
    expect([...byPath].map(([of, { name }]) => [of, name]).sort()).toEqual([
      ['berth', 'berth'],
      ['berth/1', 'berth_1'],
      ['berth/1/power', 'berth_1_power'],
      ['berth/2', 'B2'],
      ['berth/2/power', 'berth_2_power'],
    ])
  })
})

describe('the card for the consumer’s side', () => {
  const own = {
    ...{ subject: 'CN=Keen Conduit', name: 'Keen Conduit', issuer: '', selfSigned: true, isAuthority: false, keyBits: 2048 },
    ...{ validFrom: 0, validTo: Date.UTC(2036, 0, 2), hosts: ['conduit.port.example'], applicationUri: 'urn:conduit' },
    ...{ fingerprint: 'ab'.repeat(32), fingerprintSha1: 'cd'.repeat(20) },
  }
  const users = [
    { name: 'scada', key: { kind: 'password', password: { plain: 'a secret' } }, rules: [{ folder: 'berth/1', may: 'write' }] },
  ]

  it('says where, how secured, as whom, whom to trust, and what is there; and no secret', () => {
    const outlet = outletOf({
      doors: [{ interface: '10.8.0.4', port: 4841, policies: ['Basic256Sha256'], anonymous: false, names: true }],
      users,
      shortNames: { on: true },
      onRequest: { on: true },
    })
    const addresses = ['opc.tcp://conduit.port.example:4841']
    const text = cardText('Card', cardOf(outlet, { addresses, own }))
    for (const words of [
      'opc.tcp://conduit.port.example:4841',
      'Sign & encrypt (Basic256Sha256)',
      'TCP 4841, in',
      'AB AB',
      'until      2036-01-02',
      'by password: berth/1: read, write where mapped',
      'urn:keen-conduit:names',
      'urn:keen-conduit:points',
    ])
      expect(text).toContain(words)
    expect(text).not.toContain('a secret')
    expect(text).not.toContain('Anonymous')
  })

  it('asks for no trust where nothing is secured', () => {
    const text = cardText('Card', cardOf(outletOf({}), { addresses: [], own }))
    expect(text).toContain('none are asked for')
    expect(text).toContain('opc.tcp://127.0.0.1:4840')
    expect(text).toContain('the same machine only')
  })
})

describe('ages', () => {
  it('do not flicker', () => {
    expect([ageText(-5), ageText(999), ageText(1999), ageText(61_000)]).toEqual(['just now', 'just now', '1 s ago', '61 s ago'])
    expect(wholeSeconds(5999)).toBe('5 s')
  })
})
