import { describe, expect, it } from 'vitest'
import fc from 'fast-check'
import { planBetween } from '#core/cloud/plan'
import { platformModel, type ValueParcel } from '#core/cloud/entries'
import { cloudSampleOf } from '#core/cloud/sample'
import { wantedModel } from '#core/cloud/wanted'
import { Model } from '#core/equipment/model'
import { classContract, equipmentContract } from '#core/equipment/settings'
import { quality } from '#core/tags/quality'
import { messageFrom, partsOf } from '#engine/outlets/cloud/messages'
import { OpenValues, valuePacking, type KeptParcel } from '#engine/outlets/cloud/parcel'

const pump = classContract.parse({
  name: 'Pump',
  properties: [
    { name: 'rated', unit: 'kW', made: { kind: 'constant', value: 75 } },
    { name: 'power', unit: 'kW', made: { kind: 'input' } },
    { name: 'runs', type: 'int32', made: { kind: 'rollup', of: 'power', how: 'count', window: { count: 1, unit: 'hour' } } },
  ],
})
const other = classContract.parse({ name: 'Valve' })
const pieces = [
  { id: 1, path: 'Pier' },
  { id: 2, path: 'Pier/cellar/Pump 1', class: 'Pump', constants: { rated: 90, gone: 1 }, relations: [{ kind: 'feeds', to: 'Quay' }] },
  { id: 3, path: 'Quay' },
].map(({ id, ...draft }) => ({ id, ...equipmentContract.parse(draft) }))
const model = new Model([pump, other], pieces)
const wanted = (areas: string[]) =>
  wantedModel({ model, areas, classIds: new Map([['Pump', 8], ['Valve', 9]]), streamOf: (path) => (path.endsWith('/power') ? 'tag-5' : null) }) // prettier-ignore

describe('the model that goes to a platform', () => {
  it('holds the equipment of its areas, what it is part of as far as that goes there, and the classes that it needs', () => {
    expect(wanted(['Pier'])).toMatchObject({
      classes: [
        {
          key: 'class-8',
          name: 'Pump',
          properties: [{ role: 'constant', value: 75 }, { role: 'value' }, { name: 'runs', type: 'float64' }],
        },
      ],
      equipment: [
        { key: 'equipment-1', name: 'Pier', parent: '' },
        // folders in between belong to its name; a relation to what does not go there is left out
        {
          key: 'equipment-2',
          name: 'cellar/Pump 1',
          parent: 'equipment-1',
          constants: { rated: 90 },
          streams: { power: 'tag-5' },
          relations: [],
        },
      ],
    })
    expect(wanted(['']).equipment.map(({ name }) => name)).toEqual(['Pier', 'Quay', 'cellar/Pump 1'])
    expect(wanted(['Pier/cellar/Pump 1']).equipment).toMatchObject([{ name: 'Pier/cellar/Pump 1', parent: '' }])
    expect(wanted([]).classes).toEqual([])
  })

  const there = (all: ReturnType<typeof wanted>, change: (one: { name: string; key: string }) => object = () => ({})) =>
    platformModel.parse({
      classes: all.classes.map((one, i) => ({ ...one, id: `c${i}`, ...change(one) })),
      equipment: all.equipment.map((one, i) => ({ ...one, id: `e${i}`, ...change(one) })),
    })

  it('needs nothing done where it is there already, whichever way the platform orders it', () => {
    const all = wanted([''])
    const found = there(all)
    found.equipment.reverse()
    expect(planBetween(all, found, 'here')).toEqual([])
  })

  it('is renamed back or not where somebody renamed it, as it is set', () => {
    const all = wanted([''])
    const renamed = there(all, ({ name }) => (name === 'Pump' ? { name: 'Pumps' } : {}))
    expect(planBetween(all, renamed, 'there')).toEqual([])
    expect(planBetween(all, renamed, 'here')).toMatchObject([{ how: 'change', name: 'Pump', step: { id: 'c0', put: { name: 'Pump' } } }])
  })

  it('is taken away part before whole, equipment before its class, and only what was ours', () => {
    const all = there(wanted(['']))
    const foreign = { ...all.equipment[0]!, id: 'x', key: 'theirs', name: 'Theirs', parent: '' }
    const plan = planBetween(wanted([]), { ...all, equipment: [...all.equipment, foreign] }, 'here')
    expect(plan.map(({ how, name }) => `${how} ${name}`)).toEqual(['remove cellar/Pump 1', 'remove Pier', 'remove Quay', 'remove Pump'])
  })
})

describe('values on their way', () => {
  it('are as JSON has them, and never good without a value', () => {
    const at = Date.UTC(2026, 11, 1)
    expect(cloudSampleOf(at, 3.5, quality.Good, 'float64')).toEqual([at, 3.5])
    expect(cloudSampleOf(at, 2n ** 63n - 1n, quality.Good, 'int64')).toEqual([at, '9223372036854775807'])
    expect(cloudSampleOf(at, at, quality.Good, 'datetime')).toEqual([at, '2026-12-01T00:00:00.000Z'])
    expect(cloudSampleOf(at, [1, 2], quality.Good, 'int16[]')).toEqual([at, [1, 2]])
    expect(cloudSampleOf(at, NaN, quality.Good, 'float64')).toEqual([at, null, 'BadNoData'])
    expect(cloudSampleOf(at, 7, quality.BadNoCommunication, 'float64')).toEqual([at, 7, 'BadNoCommunication'])
    expect(cloudSampleOf(at, undefined, quality.Good, 'float64')).toEqual([at, null, 'BadNoData'])
  })

  const parcels = fc.array(
    fc.record({
      id: fc.uuid(),
      streams: fc.array(
        fc.record({
          ...{ key: fc.stringMatching(/^tag-\d{1,3}$/), path: fc.constant('a/b'), type: fc.constant('float64'), unit: fc.constant('') },
          samples: fc.array(fc.tuple(fc.nat(), fc.integer()), { minLength: 1, maxLength: 9 }),
        }),
        { minLength: 1, maxLength: 5 },
      ),
    }),
    { minLength: 1, maxLength: 6 },
  )
  const samplesOf = ({ streams }: ValueParcel) => streams.flatMap(({ key, samples }) => samples.map((sample) => [key, ...sample]))
  const kept = (parcel: ValueParcel): KeptParcel => ({ at: 1, samples: samplesOf(parcel).length, parcel })

  it('are cut into messages that hold all of them in their order and none more than it may', async () => {
    await fc.assert(
      fc.asyncProperty(parcels, fc.integer({ min: 1, max: 30 }), async (all, most) => {
        const queue = all.map((one) => kept(one as ValueParcel))
        const message = await messageFrom({ at: (i) => Promise.resolve(queue[i]) }, most)
        if (typeof message === 'string') throw new Error(message)
        const sent = message.parts.flat().flatMap(samplesOf)
        expect(sent).toEqual(queue.slice(0, message.parcels).flatMap(({ parcel }) => samplesOf(parcel)))
        for (const part of message.parts) expect(part.flatMap(samplesOf).length).toBeLessThanOrEqual(most)
        // the same size gives the same parts, so that the platform knows them again
        expect(partsOf(queue[0]!.parcel, most)).toEqual(partsOf(queue[0]!.parcel, most))
      }),
    )
  })

  it('come back from the disk as they were; what is cut off there is none', () => {
    const open = new OpenValues()
    const stream = { key: 'tag-1', path: 'berth/1/power', type: 'float64', unit: 'kW' }
    open.add(stream, [5, 1], 100)
    open.add(stream, [6, null, 'BadNoData'], 101)
    const parcel = open.take()
    expect(parcel).toMatchObject({ at: 100, samples: 2 })
    expect(open.isEmpty).toBe(true)
    const bytes = valuePacking.bytes(parcel)
    expect(valuePacking.read(bytes)).toEqual(parcel)
    expect(valuePacking.read(bytes.subarray(0, -3))).toBeNull()
  })
})
