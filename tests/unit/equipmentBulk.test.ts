import { describe, expect, it } from 'vitest'
import { bulkPlan } from '#core/equipment/bulk'
import { equipmentFromFolders, toProblem } from '#core/equipment/fromFolders'
import { Model } from '#core/equipment/model'
import { classContract, equipmentContract } from '#core/equipment/settings'
import { readEquipment, writeEquipment, type EquipmentSaid } from '#core/equipment/table'

const feeder = classContract.parse({
  name: 'Feeder',
  properties: [
    { name: 'power', unit: 'kW', made: { kind: 'input', alone: true } },
    { name: 'closed', type: 'bool', made: { kind: 'input' } },
    { name: 'rated_power', unit: 'kW', made: { kind: 'constant', value: 2500 } },
    { name: 'serial', type: 'string', made: { kind: 'constant' } },
    { name: 'load', unit: '%', made: { kind: 'formula', formula: '100 * power / rated_power' } },
  ],
})
const piece = (id: number, path: string, more: object = {}) => ({ ...equipmentContract.parse({ path, class: '', ...more }), id })
const modelWith = (...pieces: ReturnType<typeof piece>[]) => new Model([feeder], pieces)
const said = (text: string, model = modelWith()): EquipmentSaid[] => {
  const read = readEquipment(text, model)
  if (!read.ok) throw new Error(read.problem)
  return read.said
}

describe('equipment as a table', () => {
  it('is read with whatever divides cells, and comes back as it was written', () => {
    const lines = 'path;class;level;description;power;rated_power;serial\nPier/A;Feeder;;"one; two";quay/1;2400,5;007\n'
    const [one] = said(lines)
    expect(one).toMatchObject({
      ...{ line: 2, path: 'Pier/A', fields: { class: 'Feeder', level: null, description: 'one; two' } },
      ...{ bindings: { power: 'quay/1' }, constants: { rated_power: 2400.5, serial: '007' }, problems: [] },
    })
    const model = modelWith(piece(1, 'Pier'), piece(2, 'Pier/A', { class: 'Feeder', bindings: { power: 'quay/1' }, constants: { serial: '=1+1' } })) // prettier-ignore
    const again = said(writeEquipment(model), model)
    expect(bulkPlan(model, again).map(({ what }) => what)).toEqual(['alike', 'alike'])
  })

  it('says line by line what is wrong, and is no table without paths', () => {
    const wrong = (cells: string) => said(`path,class,level,power,rated_power,load,other\n${cells}\n`)[0]!.problems.map(({ path }) => path)
    expect(wrong('Pier,Feeder,somewhere,,,,')).toEqual(['level'])
    expect(wrong('Pier,Feeder,,,much,,')).toEqual(['constants.rated_power'])
    expect(wrong('Pier,Feeder,,,,5,x')).toEqual(['load', 'other'])
    expect(wrong('Pier,Feeder,,,,,,more')).toEqual(['path'])
    expect(readEquipment('name,class\nPier,Feeder\n', modelWith())).toMatchObject({ ok: false, line: 1 })
    expect(readEquipment('path,class\n"Pier,Feeder\n', modelWith())).toMatchObject({ ok: false, line: 2 })
  })
})

describe('many pieces at once', () => {
  it('are made with all that they are part of, changed where the table says otherwise, and let be where it does not', () => {
    const model = modelWith(
      piece(1, 'Pier'),
      piece(2, 'Pier/A', { class: 'Feeder', bindings: { power: 'quay/1', closed: 'quay/c' }, constants: { serial: 'S1' } }),
    )
    const plan = bulkPlan(model, said('path,class,power,serial\nPier/A,Feeder,quay/9,\nNorth/Dock/B,Feeder,quay/2,S2\nPier,,,\n', model))
    expect(plan.map(({ line, what, id, draft }) => [line, what, id, draft.path])).toEqual([
      [0, 'made', null, 'North'],
      [0, 'made', null, 'North/Dock'],
      [2, 'changed', 2, 'Pier/A'],
      [3, 'made', null, 'North/Dock/B'],
      [4, 'alike', 1, 'Pier'],
    ])
    // an empty cell takes away, a column that is not there does not
    expect(plan[2]!.draft).toMatchObject({ bindings: { power: 'quay/9', closed: 'quay/c' }, constants: {} })
  })

  it('are refused each by itself, and with it only what is part of it', () => {
    const model = modelWith(piece(1, 'Pier'), piece(2, 'Pier/A', { class: 'Feeder', bindings: { power: 'quay/1' } }))
    const rows = [
      ...['Pier/B,Feeder,quay/2', 'Pier/b,Feeder,quay/3', 'Pier/C,Feeder,quay/2', 'Pier/D,Feeder,quay/1', 'Pier/E,Crane,', '/x,,'],
      ...['Pier/D/part,,', 'Pier/F,Feeder,quay/6'],
    ]
    const plan = bulkPlan(model, said(`path,class,power\n${rows.join('\n')}\n`, model))
    const of = (line: number) => plan.find((one) => one.line === line)!
    expect(plan.filter(({ what }) => what !== 'refused').map(({ draft }) => draft.path)).toEqual(['Pier/F'])
    expect(of(3).problems[0]!.message).toBe('Line 2 has it already.')
    expect(of(4).problems[0]!.message).toMatch(/“Pier\/B” has this tag as its input/)
    expect(of(5).problems[0]!.message).toMatch(/“Pier\/A” has this tag as its input/)
    expect(of(6).problems.map(({ path }) => path)).toContain('class')
    expect(of(8).problems[0]!.message).toMatch(/no equipment “Pier\/D”/)
  })

  it('come from folders that go by a pattern, each with the inputs that are closest', () => {
    const tag = (path: string, unit = 'kW', type: 'float64' | 'bool' = 'float64') => ({ path, unit, type })
    const tags = [
      ...[
        tag('berth/1/shore/power'),
        tag('berth/1/shore/closed', '', 'bool'),
        tag('berth/2/shore/deep/power'),
        tag('berth/2/shore/power', 'A'),
      ],
      ...[tag('berth/3/other/power'), tag('power')],
    ]
    const asked = { class: 'Feeder', pattern: 'berth/*/shore', to: 'Port/Berth {1}/Feeder' }
    const found = equipmentFromFolders(asked, tags, modelWith())
    expect(found.map(({ path, bindings }) => [path, bindings])).toEqual([
      ['Port/Berth 1/Feeder', { power: 'berth/1/shore/power', closed: 'berth/1/shore/closed' }],
      ['Port/Berth 2/Feeder', { power: 'berth/2/shore/deep/power' }],
    ])
    expect(bulkPlan(modelWith(), found).map(({ what, draft }) => [what, draft.path])).toEqual([
      ...['Port', 'Port/Berth 1', 'Port/Berth 2', 'Port/Berth 1/Feeder', 'Port/Berth 2/Feeder'].map((path) => ['made', path]),
    ])
    expect(toProblem({ ...asked, to: 'Port/Feeder' })).toContain('{1} says where')
    expect(toProblem({ ...asked, to: 'Port/{1}/{2}' })).toMatch(/no star number 2/)
    expect(toProblem(asked)).toBeNull()
  })
})
