import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { recordsOf, withPlainLines } from '#core/formats/csv/records'
import { tableText } from '#core/formats/csv/write'
import type { DecimalSign } from '#core/formats/csv/numbers'
import { tagOfProperty } from '#shared/equipment/tags'
import { linkContract, type Link } from '#shared/links/link'
import type { LinkNames } from '#shared/sources/columns'
import { tagColumns } from '#shared/tagCsv/columns'
import { columnMeant } from '#shared/tagCsv/header'
import { FileBefore } from '#shared/tagCsv/base'
import { TagPlan, type Planned } from '#shared/tagCsv/plan'
import { pointTag, tagDraft, type Tag, type TagDraft } from '#shared/tags'

const links: Link[] = [
  { ...linkContract.parse({ name: 'Feeder meters', kind: 'modbus-tcp', settings: { host: '127.0.0.1' } }), id: 1, revision: 1 },
  { ...linkContract.parse({ name: 'Cable arm', kind: 'opcua', settings: { address: 'localhost' } }), id: 2, revision: 1 },
]
const names: LinkNames = {
  linkOf: (id) => links.find((link) => link.id === id),
  idOf: (name) => links.find((link) => link.name.toLowerCase() === name.toLowerCase())?.id,
  nameOf: (id) => links.find((link) => link.id === id)?.name,
}

const saved = (draft: TagDraft, id: number): Tag => ({ ...draft, id, revision: 3 })
const meter = (path: string, address: string, more: Partial<Parameters<typeof pointTag>[0]> = {}) =>
  pointTag({ path, linkId: 1, address, type: 'float32', unit: 'kW', ...more })

const power = saved(meter('berth/1/power', '11:holding/40', { scaling: { gain: 0.1, offset: 0 }, range: { low: 0, high: 1500 } }), 1)
const current = saved(meter('berth/1/current', '11:holding/50', { type: 'int16', unit: 'A', interval: 1000 }), 2)
const arm = saved(
  pointTag({
    path: 'arm/angle',
    linkId: 2,
    address: 'nsu=urn:arm;s=Angle',
    type: 'float64',
    options: { deadband: { kind: 'percent', value: 2 } },
  }),
  3,
)
const note = saved(tagDraft.parse({ path: 'watch/limit', source: { kind: 'memory', start: '=5' }, type: 'string' }), 4)
const site = [power, current, arm, note]

const planOf = (
  text: string,
  { tags = site, missing = (_tag: Tag): boolean => false, decimal = '.' as DecimalSign, delimiter = ',' } = {},
) => {
  const records = [...recordsOf(withPlainLines(text), delimiter)].flat()
  const head = { columns: records[0]!.cells.map(columnMeant), decimal }
  const plan = new TagPlan(head, { tags: new Map(tags.map((tag) => [tag.path, tag])), links: names })
  for (const record of records.slice(1)) plan.take(record)
  plan.end(missing)
  return plan.lines
}
const whats = (lines: readonly Planned[]) => lines.map(({ what }) => what)
const problemOf = (planned: Planned | undefined) => (planned?.what === 'refused' ? planned.problems[0] : undefined)
const draftOf = (planned: Planned | undefined) => (planned && 'draft' in planned ? planned.draft : undefined)

const tableOf = (tags: readonly TagDraft[], way = { delimiter: ';', decimal: ',' } as const) =>
  tableText([tagColumns.map(({ name }) => name), ...tags.map((tag) => tagColumns.map((column) => column.show(tag, names)))], way)

describe('a table of tags', () => {
  it('that was written here changes nothing', () => {
    expect(whats(planOf(tableOf(site), { delimiter: ';', decimal: ',' }))).toEqual(['same', 'same', 'same', 'same'])
  })

  it('makes the same tags on an empty site', () => {
    const lines = planOf(tableOf(site), { tags: [], delimiter: ';', decimal: ',' })
    expect(lines.map(draftOf)).toEqual(site.map(({ id: _id, revision: _revision, ...draft }) => draft))
  })

  it('whatever tags it holds, comes back as it was', () => {
    const text = fc.string({ unit: fc.constantFrom('a', '=', '"', ';', "'", '-', ',', 'é', '%'), minLength: 1, maxLength: 10 })
    const modbus = fc.record({
      path: text.map((name) => `berth/${name}`),
      address: fc.nat(60_000).map((offset) => `12:holding/${offset}`),
      type: fc.constantFrom('float32' as const, 'int16' as const, 'uint64' as const),
      options: fc.constantFrom({}, { order: 'CDAB' }),
      access: fc.constantFrom('read' as const, 'readwrite' as const),
      interval: fc.option(fc.integer({ min: 10, max: 100_000 })),
      scaling: fc.option(fc.record({ gain: fc.constantFrom(0.1, -2, 1e-7), offset: fc.constantFrom(0, 0.5) })),
      unit: fc.constantFrom('', 'kW', '-'),
      range: fc.option(fc.constantFrom({ low: -0.5, high: 1e9 })),
      description: text,
    })
    fc.assert(
      fc.property(fc.uniqueArray(modbus, { selector: ({ path }) => path, minLength: 1, maxLength: 6 }), (drafts) => {
        const tags = drafts.map((draft, i) => saved(pointTag({ linkId: 1, ...draft }), i + 1))
        const table = tableOf(tags)
        expect(planOf(table, { tags: [], delimiter: ';', decimal: ',' }).map(draftOf)).toEqual(
          tags.map(({ id: _id, revision: _revision, ...draft }) => draft),
        )
        expect(new Set(whats(planOf(table, { tags, delimiter: ';', decimal: ',' })))).toEqual(new Set(['same']))
      }),
    )
  })

  it('touches only the columns that it has, and shows what changes cell by cell', () => {
    const [line] = planOf('path;gain;interval\nberth/1/power;0,01;500 ms\n', { delimiter: ';', decimal: ',' })
    expect(line).toMatchObject({
      what: 'changed',
      line: 2,
      changes: [
        { column: 'interval', before: '', after: '500' },
        { column: 'gain', before: '0.1', after: '0.01' },
      ],
    })
    expect(draftOf(line)).toEqual({
      ...(({ id: _id, revision: _revision, ...draft }) => draft)(power),
      source: { ...power.source, interval: 500 },
      scaling: { gain: 0.01, offset: 0 },
    })
  })

  it('empties what is empty in it, and leaves as it is what is never empty', () => {
    const [line] = planOf('path,gain,unit,low,high,type,address\nberth/1/power,,,,,,\n')
    expect(draftOf(line)).toMatchObject({ scaling: null, unit: '', range: null, type: 'float32', source: { address: '11:holding/40' } })
  })

  it('takes numbers in any form that is one, without calling that a change', () => {
    expect(whats(planOf('path,gain,interval\nberth/1/power,0.10,\nberth/1/current,1,1 s\n'))).toEqual(['same', 'same'])
  })

  it('makes new tags with what their address is by default', () => {
    const [coil, word, text, memory] = planOf(
      'path,link,address,type,start\nb/closed,feeder meters,11:coil/3,,\nb/count,Feeder meters,400051,,\nb/name,Feeder meters,holding/9,string,\nm/limit,,,int32,7\n',
    )
    expect(draftOf(coil)).toMatchObject({ type: 'bool', source: { kind: 'point', linkId: 1, address: '11:coil/3' } })
    expect(draftOf(word)).toMatchObject({ type: 'uint16', source: { address: 'holding/50' } })
    expect(draftOf(text)).toMatchObject({ type: 'string', source: { options: { length: 16 } } })
    expect(draftOf(memory)).toMatchObject({ type: 'int32', source: { kind: 'memory', start: '7' } })
  })

  it('never takes a line for like another one that only looks so', () => {
    const memory = planOf('path,source,type,address\nm/a,memory,int32,\nm/b,memory,int32,holding/4\n')
    expect(whats(memory)).toEqual(['added', 'refused'])
    expect(problemOf(memory[1])).toEqual({ column: 'address', message: 'A tag of this kind has no address.' })
    const twice = planOf('path,source,type,unit,start\nm/a,memory,string,k,"1 x"\nm/b,memory,string,"k\n1 x",\n')
    expect(whats(twice)).toEqual(['added', 'refused'])
  })

  it('moves a tag to another kind of source, whose columns it then has', () => {
    const [line] = planOf('path,source,link,address,start\nberth/1/current,memory,,,3\n')
    expect(draftOf(line)).toMatchObject({ source: { kind: 'memory', start: '3' } })
  })

  it.each([
    ['path,link\nx/y,Nowhere\n', 'link', 'There is no link “Nowhere”.'],
    ['path,gain\nberth/1/power,"1,5"\n', 'gain', '“1,5” is no number where the decimal sign is “.”.'],
    ['path,gain\nberth/1/power,0\n', 'gain', 'A gain of 0 would make every value the same.'],
    ['path,type\nberth/1/power,real\n', 'type', '“real” is no type'],
    ['path,address\nberth/1/power,holding/70000\n', 'address', 'past the end'],
    ['path,access\narm/angle,write\n', 'access', '“write” is no access: read or readwrite.'],
    ['path,low,high\nberth/1/power,9,3\n', 'high', 'The high end lies above the low end.'],
    ['path,low\nberth/1/current,9\n', 'high', 'The high end is a number.'],
    ['path,word_order\nberth/1/power,ABDC\n', 'word_order', 'no word order'],
    ['path,coding\nberth/1/power,gray\n', 'coding', 'no coding: bcd'],
    ['path,coding\nberth/1/power,bcd\n', 'coding', 'BCD digits are read as uint16 or uint32, not as float32.'],
    ['path,word_order\narm/angle,ABCD\n', 'word_order', 'A tag of this kind has no word order.'],
    ['path,start\nberth/1/power,5\n', 'start', 'A tag of this kind has no start.'],
    ['path,source\nx,device\n', 'source', '“device” is no source of tags.'],
    ['path,interval\nberth/1/power,5\n', 'interval', '10 to 86,400,000 ms'],
    ['path,source_deadband\narm/angle,-1\n', 'source_deadband', '0 or more'],
    ['path,link,address,type\n"a\nb",Feeder meters,holding/1,uint16\n', 'path', 'shows all of its characters'],
    [',path\n1,\n', 'path', 'The line names no tag.'],
    ['path\nberth/1/power\nberth/1/power\n', 'path', 'Line 2 is about this tag as well.'],
    ['path,unit\nberth/1/power,kW,lost\n', null, 'The line has 3 cells, and the table has 2 columns.'],
  ])('refuses %j in its column', (text, column, message) => {
    const problem = problemOf(planOf(text).at(-1))
    expect(problem?.message).toContain(message)
    expect(problem?.column).toBe(column)
  })

  it('says of one bad line what is wrong, and takes its neighbours', () => {
    const lines = planOf('path,unit,gain\nberth/1/power,MW,1\nberth/1/current,mA,x\narm/angle,°,\n')
    expect(whats(lines)).toEqual(['changed', 'refused', 'changed'])
    expect(lines[1]).toMatchObject({ line: 3, cells: { path: 'berth/1/current', unit: 'mA', gain: 'x' } })
  })

  it('removes what it does not name only where that is wanted', () => {
    const missing = (tag: Tag) => tag.path.startsWith('berth/')
    expect(whats(planOf('path\nberth/1/power\n'))).toEqual(['same'])
    expect(planOf('path\nberth/1/power\n', { missing })).toMatchObject([
      { what: 'same' },
      { what: 'removed', path: 'berth/1/current', line: null },
    ])
  })

  it('never removes what a refused line is about', () => {
    expect(whats(planOf('path,gain\nberth/1/power,x\nberth/1/current,\n', { missing: (tag) => tag.path.startsWith('berth/') }))).toEqual([
      'refused',
      'same',
    ])
  })
})

describe('new paths', () => {
  it('rename, and may be swapped', () => {
    const lines = planOf('path,new_path\nberth/1/power,berth/1/current\nberth/1/current,berth/1/power\n')
    expect(lines).toMatchObject([
      {
        what: 'changed',
        draft: { path: 'berth/1/current' },
        changes: [{ column: 'path', before: 'berth/1/power', after: 'berth/1/current' }],
      },
      { what: 'changed', draft: { path: 'berth/1/power' } },
    ])
  })

  it('are refused where a tag stays, and what only they make room for as well', () => {
    const lines = planOf('path,new_path,link,address\nberth/1/power,arm/angle,,\nberth/1/current,berth/1/power,,\n')
    expect(whats(lines)).toEqual(['refused', 'refused'])
    expect(problemOf(lines[0])).toEqual({ column: 'new_path', message: 'There is a tag “arm/angle” already.' })
    expect(problemOf(lines[1])).toEqual({ column: 'new_path', message: 'There is a tag “berth/1/power” already.' })
  })

  it('are refused where two lines want the same, and leave the one that stays', () => {
    const lines = planOf('path,new_path\narm/angle,x/y\nberth/1/power,x/y\nberth/1/current,watch/limit\nwatch/limit,\n')
    expect(whats(lines)).toEqual(['changed', 'refused', 'refused', 'same'])
    expect(problemOf(lines[1])?.message).toBe('Line 2 wants to be “x/y” as well.')
  })

  it('may take the place of what is removed', () => {
    const lines = planOf('path,new_path\narm/angle,berth/1/power\n', { missing: (tag) => tag.path.startsWith('berth/') })
    expect(whats(lines)).toEqual(['changed', 'removed', 'removed'])
  })
})

describe('a newer file of a program', () => {
  const header = 'path,link,address,type,description'
  const fileBefore = new FileBefore([
    {
      path: 'berth/1/power',
      id: 1,
      cells: { link: 'Feeder meters', address: '11:holding/40', type: 'float32', description: 'of the feeder' },
    },
    { path: 'berth/1/current', id: 2, cells: { link: 'Feeder meters', address: '11:holding/50', type: 'int16', description: '' } },
    { path: 'berth/1/old', id: 9, cells: { link: 'Feeder meters', address: '11:holding/99', type: 'int16', description: '' } },
  ])
  const planned = (lines: string[], tags: readonly Tag[]) => {
    const records = [...recordsOf([header, ...lines].join('\n'), ',')].flat()
    const known = { tags: new Map(tags.map((tag) => [tag.path, tag])), links: names, before: fileBefore }
    const plan = new TagPlan({ columns: records[0]!.cells.map(columnMeant), decimal: '.' }, known)
    for (const record of records.slice(1)) plan.take(record)
    plan.end((tag) => fileBefore.made(tag))
    return plan.lines
  }
  const mine = { ...power, description: 'what I call it' }

  it('moves what it moves, and leaves what somebody changed where the file says the same as before', () => {
    const [line] = planned(['berth/1/power,Feeder meters,11:holding/44,float32,of the feeder'], [mine, current])
    expect(line).toMatchObject({ what: 'changed', kept: { description: 'of the feeder' } })
    expect(line?.what === 'changed' && line.changes).toEqual([{ column: 'address', before: '11:holding/40', after: '11:holding/44' }])
    expect(draftOf(line)!.description).toBe('what I call it')
  })

  it('wins where it says something else than before', () => {
    const [line] = planned(['berth/1/power,Feeder meters,11:holding/40,float32,of feeder 11'], [mine, current])
    expect(draftOf(line)!.description).toBe('of feeder 11')
    expect(line).not.toHaveProperty('kept')
  })

  it('finds a tag that somebody calls otherwise by now, and leaves it its name', () => {
    const renamed = { ...power, path: 'quay/one/power' }
    const lines = planned(['berth/1/power,Feeder meters,11:holding/44,float32,of the feeder'], [renamed, current])
    expect(lines[0]).toMatchObject({ what: 'changed', path: 'quay/one/power', kept: { path: 'berth/1/power' } })
    expect(draftOf(lines[0])!.path).toBe('quay/one/power')
    expect(lines.filter(({ what }) => what === 'added')).toEqual([])
  })

  it('takes away what it does not name any more, and nothing that it never made', () => {
    const old = saved(meter('berth/1/old', '11:holding/99', { type: 'int16' }), 9)
    const own = saved(meter('berth/1/own', '11:holding/77'), 12)
    const lines = planned(['berth/1/power,Feeder meters,11:holding/40,float32,of the feeder'], [power, current, old, own])
    expect(lines.filter(({ what }) => what === 'removed').map(({ path }) => path)).toEqual(['berth/1/current', 'berth/1/old'])
  })

  it('says the same, and nothing changes', () => {
    const [line] = planned(['berth/1/power,Feeder meters,11:holding/40,float32,of the feeder'], [mine, current])
    expect(line).toMatchObject({ what: 'same', kept: { description: 'of the feeder' } })
  })
})

describe('tags that equipment has', () => {
  const made = { kind: 'input' as const, path: 'berth/1/power' }
  const load = saved(
    tagOfProperty({
      equipmentId: 1,
      property: 'load',
      path: 'Pier/load',
      type: 'float64',
      unit: '%',
      description: 'Load',
      limits: [],
      made,
    }),
    9,
  )
  const tags = [power, load]

  it('are left to it: what it decides is refused, the rest is taken', () => {
    expect(whats(planOf('path,unit\nPier/load,kW\n', { tags }))).toEqual(['refused'])
    expect(problemOf(planOf('path,unit\nPier/load,kW\n', { tags })[0])).toMatchObject({ column: 'unit', message: expect.stringMatching(/equipment and class decide/) as string }) // prettier-ignore
    expect(whats(planOf('path,new_path\nPier/load,mine\n', { tags }))).toEqual(['refused'])
    expect(whats(planOf('path,unit\nPier/load,%\n', { tags }))).toEqual(['same'])
    expect(whats(planOf('path,names\nPier/load,0 = idle\n', { tags }))).toEqual(['changed'])
  })

  it('are not removed because a table does not name them, nor made by one', () => {
    expect(whats(planOf('path,unit\nberth/1/power,kW\n', { tags, missing: () => true }))).toEqual(['same'])
    expect(problemOf(planOf('path,source\nPier/new,property\n', { tags })[0])).toMatchObject({ column: 'source' })
  })
})
