import { Ajv2020 } from 'ajv/dist/2020'
import formats from 'ajv-formats'
import { readFileSync } from 'node:fs'
import { load } from 'js-yaml'
import { describe, expect, it } from 'vitest'
import { readYaml } from '#core/formats/yaml/read'
import { recordSetContract } from '#core/records/settings'
import { textSchema } from '#db/siteText/document'
import { fieldsOf } from '#db/siteText/changes'
import { SitePlanner, type Given } from '#db/siteText/plan'
import { writeSite, type Things } from '#db/siteText/write'
import { linkContract } from '#shared/links/link'
import { outletContract } from '#shared/outlets/outlet'
import { pointTag, tagDraft } from '#shared/tags'

const link = (id: number, draft: unknown) => ({ ...linkContract.parse(draft), id, revision: 1 })
const meters = link(1, { name: 'Berth meters', kind: 'modbus-tcp', settings: { host: '10.0.0.4', order: 'CDAB' } })
const arm = link(2, {
  name: 'Cable arm',
  kind: 'opcua',
  settings: { address: '10.0.0.21', identity: { kind: 'password', user: 'conduit', password: { sealed: 'c2VhbGVk' } } },
})
const outlet = {
  ...outletContract.parse({
    name: 'OPC UA server',
    kind: 'opcua-server',
    settings: {
      users: [{ name: 'control room', key: { kind: 'password', password: { hashed: 'hash' } }, rules: [{ folder: '', may: 'read' }] }],
    },
  }),
  id: 1,
  revision: 1,
}
const tags = [
  pointTag({ path: 'berth/1/power', linkId: 1, address: '11:holding/40', type: 'float32', unit: 'kW', scaling: { gain: 0.1, offset: 0 } }),
  pointTag({ path: 'arm/angle', linkId: 2, address: 'nsu=urn:arm;s=Angle', type: 'float64' }),
  tagDraft.parse({ path: 'port/officer', source: { kind: 'memory', start: '007' }, type: 'string' }),
  tagDraft.parse({ path: 'book/ship', source: { kind: 'record', recordSetId: 1, part: 'value', column: 'ship' }, type: 'string' }),
].map((draft, i) => ({ ...draft, id: i + 1, revision: 1 }))
const profile = {
  ...recordSetContract.parse({
    ...{ name: 'Profile', linkId: 2, folder: 'book' },
    how: { kind: 'cursor', from: { kind: 'table', table: 'profile' }, key: 'voyage' },
  }),
  ...{ id: 1, revision: 1 },
}
const site: Things = {
  certificate: [],
  deviceDescription: [],
  node: [],
  link: [meters, arm],
  outlet: [outlet],
  recordSet: [profile],
  tag: tags,
  bridge: [],
  recording: [],
  equipmentClass: [],
  equipment: [],
  display: [],
}
const empty: Things = {
  certificate: [],
  deviceDescription: [],
  node: [],
  link: [],
  outlet: [],
  recordSet: [],
  tag: [],
  bridge: [],
  recording: [],
  equipmentClass: [],
  equipment: [],
  display: [],
}

const written = (lists: Partial<Things> = site) => [...writeSite('Harrow Sound', null, lists, site)].join('')
const given = (secrets: Record<string, string> = {}): Given => ({
  secrets: new Map(Object.entries(secrets)),
  isKept: (kept, secret) => JSON.stringify(kept).includes(`of ${secret}`),
  settled: (_subject, draft) => ({ draft, problems: [] }),
})
const planOf = (text: string, now: Things = site, secrets: Record<string, string> = {}) => {
  const read = readYaml(text)
  if (!read.ok) throw new Error(read.problem)
  return new SitePlanner(read.text, now, given(secrets)).plan()
}

const compiled = () => {
  const ajv = new Ajv2020({ strict: false })
  formats.default(ajv)
  return ajv.compile(textSchema())
}

/** The first line that names what is wrong; the first of all where that is not there. */
const lineOf = (text: string, path: string) => {
  const names = path.split('.').reverse()
  const lines = text.split('\n')
  const named = names.map((name) => lines.findIndex((line) => new RegExp(`(^|[ {"])${name}"?:`).test(line))).find((at) => at >= 0)
  return (named ?? 0) + 1
}

describe('the text of a site', () => {
  it('is plain YAML that keeps its schema, with names in place of numbers and of secrets', () => {
    const value = load(written()) as { links: Record<string, { settings: unknown }>; tags: Record<string, { source: unknown }> }
    const validate = compiled()
    expect(validate(value), JSON.stringify(validate.errors)).toBe(true)
    expect(value.tags['berth/1/power']!.source).toEqual({ kind: 'point', link: 'Berth meters', address: '11:holding/40' })
    expect(value.links['Cable arm']!.settings).toMatchObject({ identity: { password: { secret: 'LINK_CABLE_ARM_IDENTITY_PASSWORD' } } })
    expect(written()).not.toMatch(/sealed|hash\b|linkId/)
    // what is so by default is not in it
    expect(value.links['Berth meters']!.settings).toEqual({ host: '10.0.0.4', order: 'CDAB' })
  })

  it('has a schema that refuses what nobody knows, and stands in the documents as it is', () => {
    const validate = compiled()
    expect(validate({ conduit: 1, links: { a: { kind: 'modbus-tcp', settings: { host: 'x', oder: 'ABCD' } } } })).toBe(false)
    expect(validate({ conduit: 1, tags: { a: { source: { kind: 'point', link: 'Berth meters', address: 'x' }, type: 'int16' } } })).toBe(
      true,
    )
    expect(validate({ conduit: 1, tags: { a: { source: { kind: 'point', linkId: 1, address: 'x' }, type: 'int16' } } })).toBe(false)
    expect(JSON.parse(readFileSync('docs/site-text.schema.json', 'utf8'))).toEqual(JSON.parse(JSON.stringify(textSchema())))
  })

  it('comes to nothing at its own site, whatever the order of the things', () => {
    const shuffled: Things = { ...site, tag: [...tags].reverse(), link: [arm, meters] }
    expect([...writeSite('Harrow Sound', null, shuffled, shuffled)].join('')).toBe(written())
    expect(planOf(written())).toMatchObject({ changes: [], same: 8, problems: [], missing: [] })
  })

  it('names the set of a tag, and the link of a set', () => {
    expect(written()).toMatch(/recordSets:\n {2}Profile:\n {4}link: Cable arm\n/)
    expect(written()).toContain('book/ship:\n    source: { kind: record, recordSet: Profile, part: value, column: ship }\n')
  })

  it('makes everything at an empty site, and asks for its secrets', () => {
    const plan = planOf(written(), empty, { LINK_CABLE_ARM_IDENTITY_PASSWORD: 'given' })
    expect(plan.problems).toEqual([])
    expect(plan.changes.map(({ subject, what }) => `${what} ${subject}`)).toEqual([
      'made link',
      'made link',
      'made outlet',
      'made recordSet',
      'made tag',
      'made tag',
      'made tag',
      'made tag',
    ])
    expect(plan.missing.map(({ secret }) => secret)).toEqual(['OUTLET_OPC_UA_SERVER_USERS_CONTROL_ROOM_KEY_PASSWORD'])
    const made = plan.changes.find(({ name }) => name === 'arm/angle')
    const ofArm = plan.changes.find(({ name }) => name === 'Cable arm')
    expect(made).toMatchObject({ draft: { source: { linkId: (ofArm as { id: number }).id } } })
    expect(ofArm).toMatchObject({ draft: { settings: { identity: { password: { plain: 'given' } } } } })
  })

  it('tells field by field what differs; of secrets only that they do', () => {
    const text = written().replace('unit: kW', 'unit: MW').replace('order: CDAB', 'order: ABCD')
    const { changes } = planOf(text, site, { LINK_CABLE_ARM_IDENTITY_PASSWORD: 'another' })
    const told = changes.map((change) => [change.name, fieldsOf(change, () => 'a link')])
    expect(told).toEqual([
      ['Berth meters', [{ field: 'settings.order', before: 'CDAB', after: 'ABCD' }]],
      ['Cable arm', [{ field: 'settings.identity.password', before: 'a secret', after: 'another secret' }]],
      ['berth/1/power', [{ field: 'unit', before: 'kW', after: 'MW' }]],
    ])
    const sealed = link(2, {
      ...arm,
      settings: { ...arm.settings, identity: { kind: 'password', user: 'conduit', password: { sealed: 'of same' } } },
    })
    expect(planOf(written(), { ...site, link: [meters, sealed] }, { LINK_CABLE_ARM_IDENTITY_PASSWORD: 'same' }).changes).toEqual([])
  })

  it('removes what a list does not name, within its part, and touches no list that is absent', () => {
    expect(
      planOf('conduit: 1\ntags: {}')
        .changes.map(({ name, what }) => `${what} ${name}`)
        .sort(),
    ).toEqual(['removed arm/angle', 'removed berth/1/power', 'removed book/ship', 'removed port/officer'])
    expect(planOf('conduit: 1\npart: { folder: berth }\ntags:\n').changes.map(({ name }) => name)).toEqual(['berth/1/power'])
    expect(planOf('conduit: 1\npart: { link: Cable arm }\ntags:\n').changes.map(({ name }) => name)).toEqual(['arm/angle'])
    expect(planOf('conduit: 1').changes).toEqual([])
  })

  it('cannot take away what the site still needs', () => {
    const { problems } = planOf('conduit: 1\nlinks:\n  Cable arm: { kind: opcua, settings: { address: 10.0.0.21 } }')
    expect(problems).toEqual([
      { line: 2, column: 1, path: 'links', message: expect.stringMatching(/“Berth meters” is not here, and 1 tag/) as string },
    ])
  })

  it('takes numbers where text is meant as they are written', () => {
    const plan = planOf(
      'conduit: 1\npart: { folder: new }\ntags:\n  new/a: { source: { kind: point, link: Berth meters, address: 040001 }, type: int16, unit: 5 }',
    )
    expect(plan.changes).toMatchObject([{ what: 'made', draft: { source: { address: '040001' }, unit: '5' } }])
  })

  it.each([
    ['conduit: 2', 'conduit', /newer version/],
    ['links: {}', 'conduit', /begins with “conduit: 1”/],
    ['- a', 'conduit', /begins with/],
    ['conduit: 1\ntag: {}', 'tag', /“tag” means nothing here.*tags/],
    ['conduit: 1\nlinks: [1]', 'links', /fields by name/],
    ['conduit: 1\npart: { link: Nowhere }\ntags: {}', 'part.link', /no link “Nowhere”/],
    [
      'conduit: 1\npart: { folder: x }\ntags:\n  x/a: { source: { kind: point, link: Nowhere, address: a }, type: int16 }',
      'tags.x/a.source.link',
      /no link “Nowhere”/,
    ],
    ['conduit: 1\npart: { folder: x }\ntags:\n  x/a: { source: { kind: memory }, type: int17 }', 'tags.x/a.type', /A type is/],
    [
      'conduit: 1\npart: { folder: x }\ntags:\n  x/a: { source: { kind: memory }, type: int16, intervall: 5 }',
      'tags.x/a.intervall',
      /means nothing/,
    ],
    ['conduit: 1\npart: { folder: x }\ntags:\n  "x//a": { source: { kind: memory }, type: int16 }', 'tags.x//a.path', /./],
    ['conduit: 1\npart: { folder: x }\ntags:\n  x/a: 5', 'tags.x/a', /fields with values/],
    [
      'conduit: 1\nlinks:\n  Berth meters: { kind: modbus-tcp, settings: { host: 10.0.0.4 } }\n  Cable arm: { kind: opcua, settings: { address: 10.0.0.21, identity: { kind: password, user: a, password: { plain: open } } } }',
      'links.Cable arm.settings.identity.password',
      /does not stand in the text/,
    ],
  ])('is refused where it is wrong: %j', (text, path, message) => {
    const { problems } = planOf(text)
    expect(problems[0]).toMatchObject({ path, message: expect.stringMatching(message) as string })
    expect(problems[0]!.line).toBe(lineOf(text, path))
  })
})
