import type { HistoryData, HistoryModifiedData } from 'node-opcua'
import { AttributeIds, BrowseDirection, resolveNodeId, type NodeId, type DataValue, type HistoryReadResult, HistoryReadRequest, ReadProcessedDetails, ReadRawModifiedDetails, ReadAtTimeDetails, TimestampsToReturn, AggregateFunction } from 'node-opcua' // prettier-ignore
import { afterEach, expect, it } from 'vitest'
import { freePort } from '../../launcher/ports.mjs'
import { changeConfiguration } from '#db/configuration'
import { recordingContract } from '#core/history/settings'
import { quality } from '#core/tags/quality'
import { outletContract } from '#shared/outlets/outlet'
import { tagDraft } from '#shared/tags'
import { closeAll, databaseFor, engineOn, type Closing } from '../support/engineOn'
import { plainClient, type Client } from '../support/outlet'
import { until } from '../support/until'

/** The past, as a client of the standard reads it (OPC 10000-11 and 10000-13). */

const closing: Closing = []
afterEach(() => closeAll(closing))

const tag = (path: string, type = 'float64') =>
  tagDraft.parse({ path, source: { kind: 'memory', start: type === 'string' ? 'a' : -1 }, type, unit: type === 'string' ? '' : 'kW' })

/** Minutes of an hour that is over, so that nothing of it is still under way. */
const hour = Math.floor(Date.now() / 3_600_000) * 3_600_000 - 7_200_000
const minute = (n: number) => hour + n * 60_000

const recordedSite = async () => {
  const database = await databaseFor(closing)
  const port = await freePort()
  const rights = [
    { folder: '', may: 'write' },
    { folder: 'secret', may: 'nothing' },
  ]
  const outlet = outletContract.parse({ name: 'SCADA', kind: 'opcua-server', settings: { doors: [{ port }], anonymous: rights } })
  await changeConfiguration(database.db, 'test', 'made', async (editor) => {
    await editor.insert('tag', [tag('berth/power'), tag('secret/power'), tag('berth/text', 'string')])
    await editor.insert('recording', [recordingContract.parse({ pattern: 'berth/**', how: { kind: 'change' } })])
    await editor.insert('outlet', [outlet])
  })
  const { engine } = await engineOn(closing, database)
  await until(() => engine.status().outlets[0]?.flow === 'flowing')
  const handle = engine.tags.byPath('berth/power')!.handle
  const put = (samples: [n: number, value: number | null][]) => {
    for (const [n, value] of samples)
      if (value === null) engine.table.degrade(handle, quality.BadNoCommunication, minute(n))
      else engine.table.set(handle, value, quality.Good, Date.now(), minute(n))
    engine.table.flush()
  }
  const stored = async (count: number) => {
    const ask = () => engine.history.past.samples({ id: engine.tags.byPath('berth/power')!.id, from: hour, to: minute(60), most: 1000 })
    await until(async () => (await ask()).length >= count)
  }
  const client = await plainClient(port)
  closing.push(() => client.close())
  return { engine, put, stored, client }
}

const ask = async (
  client: Client,
  details: ReadRawModifiedDetails | ReadProcessedDetails | ReadAtTimeDetails,
  path = 'berth/power',
  point?: Buffer,
) => {
  const nodesToRead = [{ nodeId: client.node('urn:keen-conduit:tags', path), ...(point ? { continuationPoint: point } : {}) }]
  const request = new HistoryReadRequest({ nodesToRead, historyReadDetails: details, timestampsToReturn: TimestampsToReturn.Both })
  return (await client.session.historyRead(request)).results![0]!
}
const valuesOf = ({ historyData }: HistoryReadResult): DataValue[] => (historyData as HistoryData).dataValues ?? []
const pairs = (result: HistoryReadResult) =>
  valuesOf(result).map(({ value, sourceTimestamp }) => [(sourceTimestamp!.getTime() - hour) / 60_000, value.value as unknown])
const span = (startTime: number | null, endTime: number | null, more: object = {}) =>
  new ReadRawModifiedDetails({
    ...(startTime === null ? {} : { startTime: new Date(startTime) }),
    ...(endTime === null ? {} : { endTime: new Date(endTime) }),
    ...more,
  })

it('hands out samples forwards, backwards, by number and with their bounds', async () => {
  const { put, stored, client } = await recordedSite()
  put([[0, 1], [2, 2], [3, null], [5, 5], [9, 9]]) // prettier-ignore
  await stored(5)
  expect(pairs(await ask(client, span(minute(0), minute(5))))).toEqual([[0, 1], [2, 2], [3, 2]]) // prettier-ignore
  expect(pairs(await ask(client, span(minute(5), minute(0))))).toEqual([[5, 5], [3, 2], [2, 2]]) // prettier-ignore
  expect(pairs(await ask(client, span(minute(2), null, { numValuesPerNode: 2 })))).toEqual([[2, 2], [3, 2]]) // prettier-ignore
  expect(pairs(await ask(client, span(null, minute(5), { numValuesPerNode: 2 })))).toEqual([[5, 5], [3, 2]]) // prettier-ignore
  const bounds = await ask(client, span(minute(1), minute(4), { returnBounds: true }))
  expect(pairs(bounds)).toEqual([[0, 1], [2, 2], [3, 2], [5, 5]]) // prettier-ignore
  expect(valuesOf(bounds)[2]!.statusCode.name).toBe('BadNoCommunication')
  const early = await ask(client, span(minute(-60), minute(1), { returnBounds: true }))
  expect(valuesOf(early)[0]!.statusCode.name).toBe('BadBoundNotFound')
  expect((await ask(client, span(minute(6), minute(7)))).statusCode.name).toBe('GoodNoData')
  expect((await ask(client, span(minute(6), null))).statusCode.name).toBe('BadHistoryOperationInvalid')
})

it('goes on where an answer ended, with nothing told twice', async () => {
  const { put, stored, client } = await recordedSite()
  put(Array.from({ length: 10 }, (_, i): [number, number] => [i, i]))
  await stored(10)
  const told: unknown[] = []
  let point: Buffer | undefined
  let rounds = 0
  do {
    const details = span(minute(0), minute(9), { numValuesPerNode: 4, returnBounds: true })
    const result = await ask(client, details, 'berth/power', point)
    told.push(...valuesOf(result).map(({ value }) => value.value as unknown))
    point = result.continuationPoint?.length ? result.continuationPoint : undefined
    rounds++
  } while (point && rounds < 10)
  expect(told).toEqual([0, 1, 2, 3, 4, 5, 6, 7, 8, 9])
  expect(rounds).toBe(3)
  const wrong = await ask(client, span(minute(0), minute(9), { numValuesPerNode: 4 }), 'berth/power', Buffer.from('nonsense'))
  expect(wrong.statusCode.name).toBe('BadContinuationPointInvalid')
})

it('tells what was replaced, when, and the value that took its place', async () => {
  const { put, stored, client } = await recordedSite()
  put([[1, 10], [4, 40]]) // prettier-ignore
  await stored(2)
  put([[1, 11]]) // prettier-ignore
  await until(async () => pairs(await ask(client, span(minute(0), minute(2)))).some(([, value]) => value === 11))
  const result = await ask(client, span(minute(0), minute(9), { isReadModified: true }))
  const { dataValues, modificationInfos } = result.historyData as HistoryModifiedData
  expect(dataValues!.map(({ value }) => value.value as unknown)).toEqual([10])
  expect(Date.now() - modificationInfos![0]!.modificationTime!.getTime()).toBeLessThan(60_000)
  // the one that took its place says that it hides another: ExtraData (OPC 10000-4, 7.39.1)
  const after = valuesOf(await ask(client, span(minute(0), minute(9))))
  expect(after.map(({ value, statusCode }) => [value.value as unknown, statusCode.value])).toEqual([[11, 0x0408], [40, 0]]) // prettier-ignore
})

const processedBy = (how: AggregateFunction, from: number, to: number, step: number) =>
  new ReadProcessedDetails({
    aggregateType: [resolveNodeId(how)],
    startTime: new Date(from),
    endTime: new Date(to),
    processingInterval: step,
    aggregateConfiguration: { useServerCapabilitiesDefaults: true },
  })

it('works out least, most, averages and counts of intervals', async () => {
  const { put, stored, client } = await recordedSite()
  put([[0, 0], [1, 10], [2, 20], [8, 80]]) // prettier-ignore
  await stored(4)
  const by = async (how: AggregateFunction, to = minute(10)) => pairs(await ask(client, processedBy(how, minute(0), to, 300_000)))
  expect(await by(AggregateFunction.Minimum)).toEqual([[0, 0], [5, 80]]) // prettier-ignore
  expect(await by(AggregateFunction.Maximum)).toEqual([[0, 20], [5, 80]]) // prettier-ignore
  expect(await by(AggregateFunction.Average)).toEqual([[0, 10], [5, 80]]) // prettier-ignore
  // 0 for a minute, 10 for one, 20 for three; then 20 for three and 80 for two
  expect(await by(AggregateFunction.TimeAverage)).toEqual([[0, 14], [5, 44]]) // prettier-ignore
  expect(await by(AggregateFunction.Count)).toEqual([[0, 3], [5, 1]]) // prettier-ignore
  const ragged = await ask(client, processedBy(AggregateFunction.Count, minute(0), minute(7), 300_000))
  expect(valuesOf(ragged).map(({ statusCode }) => statusCode.value)).toEqual([0x0401, 0x0405])
  const backwards = await ask(client, processedBy(AggregateFunction.Maximum, minute(10), minute(0), 300_000))
  expect(pairs(backwards)).toEqual([[10, 80], [5, 20]]) // prettier-ignore
})

it('says of an interval that was partly bad that it was, and refuses what it does not do', async () => {
  const { put, stored, client } = await recordedSite()
  put([[0, 4], [1, null], [3, 6]]) // prettier-ignore
  await stored(3)
  const [value] = valuesOf(await ask(client, processedBy(AggregateFunction.TimeAverage, minute(0), minute(5), 0)))
  expect(value!.value.value).toBeCloseTo((4 + 6 * 2) / 3, 9)
  expect(value!.statusCode.value >>> 0).toBe((quality.UncertainDataSubNormal | 0x0401) >>> 0)
  const [before] = valuesOf(await ask(client, processedBy(AggregateFunction.Average, minute(-50), minute(-40), 0)))
  expect(before!.statusCode.value >>> 0).toBe((quality.BadNoData | 0x0401) >>> 0)
  const codes = async (how: AggregateFunction, path: string) =>
    (await ask(client, processedBy(how, minute(0), minute(5), 0), path)).statusCode.name
  expect(await codes(AggregateFunction.Interpolative, 'berth/power')).toBe('BadAggregateNotSupported')
  expect(await codes(AggregateFunction.Average, 'berth/text')).toBe('BadAggregateInvalidInputs')
  expect(await codes(AggregateFunction.Average, 'secret/power')).toBe('BadUserAccessDenied')
  expect(await codes(AggregateFunction.Average, 'berth/none')).toBe('BadNodeIdUnknown')
})

it('says what held at given times, and which tags are recorded', async () => {
  const { put, stored, client } = await recordedSite()
  put([[0, 4], [3, 6]]) // prettier-ignore
  await stored(2)
  const reqTimes = [-50, 0, 2, 3].map((n) => new Date(minute(n)))
  const result = await ask(client, new ReadAtTimeDetails({ reqTimes, useSimpleBounds: true }))
  expect(valuesOf(result).map(({ value }) => value?.value as unknown)).toEqual([null, 4, 4, 6])
  expect(valuesOf(result).map(({ statusCode }) => statusCode.value >>> 0)).toEqual([quality.BadNoData, 0, 0x0402, 0])
  const historizing = async (path: string) =>
    (await client.session.read({ nodeId: client.node('urn:keen-conduit:tags', path), attributeId: AttributeIds.Historizing })).value
      .value as unknown
  expect(await historizing('berth/power')).toBe(true)
  const listed = await client.below(resolveNodeId('HistoryServerCapabilities_AggregateFunctions').toString())
  expect(listed.toSorted()).toEqual(['Average', 'Count', 'Maximum', 'Minimum', 'TimeAverage'])
})

it('says how it is to be read: in steps, and what becomes of what is not good (OPC 10000-11, 5.2.3)', async () => {
  const { client } = await recordedSite()
  const follow = async (nodeId: NodeId | string, reference: string) => {
    const { references } = await client.session.browse({ nodeId, referenceTypeId: resolveNodeId(reference), includeSubtypes: true, browseDirection: BrowseDirection.Forward, resultMask: 63 }) // prettier-ignore
    return new Map(references!.map(({ browseName, nodeId: to }) => [browseName.name!, to as NodeId]))
  }
  const power = client.node('urn:keen-conduit:tags', 'berth/power')
  const text = client.node('urn:keen-conduit:tags', 'berth/text')
  const [read] = [...(await follow(power, 'HasHistoricalConfiguration')).values()]
  expect([...(await follow(text, 'HasHistoricalConfiguration')).values()]).toEqual([read])
  const values = async (of: NodeId) => {
    const found = await follow(of, 'HasProperty')
    const entries = [...found].map(
      async ([name, nodeId]) => [name, (await client.session.read({ nodeId })).value.value as unknown] as const,
    )
    return Object.fromEntries(await Promise.all(entries)) as Record<string, unknown>
  }
  expect(await values(read!)).toMatchObject({ Stepped: true })
  const aggregates = (await follow(read!, 'HasComponent')).get('AggregateConfiguration')!
  expect(await values(aggregates)).toEqual({
    ...{ TreatUncertainAsBad: true, PercentDataGood: 100, PercentDataBad: 100, UseSlopedExtrapolation: false },
  })
})
