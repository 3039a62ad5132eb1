import { checks, walk } from './pathChecks'
import { machinePort } from '../serialPorts'
import { sensorPortFound } from '../links/sensorPorts'
import { watchedStatus } from '../links/watchedStatus'
import { z } from 'zod'
import { branchPart, childrenFound, place, placeDetails, searchPart } from '../browse'
import { idField, numberText } from '#core/contracts/fields'
import { operationName } from '#core/http/settings'
import { loadChange } from '../load'
import { tagDraft } from '../tags'
import { anyFound } from '../links/found'
import { linkChange, linkContract, linkTrial, savedLink } from '../links/link'
import { apiDescription, callOutcome } from '../links/webCall'
import { newTable, tableColumn, listedTable, tablePlace } from '../links/tables'
import { checkPart } from '../diagnosis'
import { trafficPart } from '../traffic'
import { listQuery, listWhole, pageOf } from './lists'
import { operation } from './operation'
import { removed } from './removed'
import { unclaimedPage } from './unclaimed'

const group = 'Links'

const example = { name: 'Feeder meters', kind: 'modbus-tcp', settings: { host: '10.8.0.4', port: 502, unit: 11 } } as const

const webApiExample = {
  name: 'Tariffs',
  kind: 'http',
  settings: { base: 'https://tariffs.port.example/v1', operations: [{ name: 'tariff', path: '/tariffs/{zone}' }] },
} as const

export const listLinks = operation('GET /links', {
  group,
  needs: 'look',
  does: 'The links: to devices, controllers and servers.',
  query: listQuery(['name', 'kind', 'id', 'revision'], listWhole),
  answer: pageOf(savedLink),
})

export const makeLink = operation('POST /links', {
  size: 'many',
  group,
  needs: 'configure',
  does: 'Makes a link.',
  body: linkContract,
  example,
  answer: savedLink,
  faults: ['entry.taken'],
})

export const showLink = operation('GET /links/{id}', { group, needs: 'look', does: 'A link.', answer: savedLink })

export const changeLink = operation('PUT /links/{id}', {
  size: 'many',
  group,
  needs: 'configure',
  does: 'Changes a link, unless somebody else did since.',
  body: linkChange,
  example: { revision: 4, link: example },
  answer: savedLink,
  faults: ['entry.taken', 'entry.edited', 'entry.kind'],
})

export const removeLink = operation('DELETE /links/{id}', {
  group,
  needs: 'configure',
  does: 'Removes a link that no tag reads through; or with its tags.',
  query: { tags: z.literal('remove').optional().describe('Whether the tags that read through it go, too.') },
  answer: removed,
  faults: ['entry.in-use', 'entry.bridged'],
})

export const listPrograms = operation('GET /links/{id}/programs', {
  group,
  needs: 'look',
  does: 'How the files of its program are that are looked into again and again.',
  answer: z.array(watchedStatus),
})

export const listSensorPorts = operation('GET /links/{id}/ports', {
  group,
  needs: 'look',
  does: 'What is plugged in at the ports of a master of smart sensors, what it measures, and what nobody has decided about yet.',
  answer: z.array(sensorPortFound),
  engine: true,
  faults: ['entry.gone', 'link.no-ports'],
})

export const takeSensor = operation('POST /links/{id}/ports/{port}/take', {
  group,
  needs: 'configure',
  does: 'Takes the device at a port: it belongs there from now on, and its process data become tags; in one change.',
  body: z.object({
    folder: z
      .string()
      .trim()
      .max(240, 'At most 240 characters.')
      .nullable()
      .default(null)
      .describe('Where its tags are made, one for each value of its process data; null: none are made, it only belongs there.'),
  }),
  example: { folder: 'berth/1/cable_tension' },
  answer: z.object({ made: z.array(z.string()).describe('The paths of the tags.'), revision: z.int() }),
  engine: true,
  faults: ['entry.gone', 'entry.taken', 'link.no-ports', 'iolink.empty', 'iolink.undescribed'],
})

export const listSerialPorts = operation('GET /serial-ports', {
  group,
  needs: 'look',
  does: 'The serial ports that a machine has now: the engine’s, or that of a node.',
  query: { node: numberText(1).optional().describe('The node; left out: the engine’s machine.') },
  answer: z.array(machinePort),
  engine: true,
})

export const loadLink = operation('POST /links/{id}/load', {
  group,
  needs: 'look',
  does: 'What reading its tags asks of a link, as it is and as it would be: requests, time, and the tags that cost most.',
  body: z.object({
    link: linkContract.nullable().default(null).describe('The link as it would be; null: as it is.'),
    tags: z
      .array(z.object({ id: idField('An id').nullable().describe('Null: a new one.'), tag: tagDraft }))
      .max(500, 'At most 500 tags at once.')
      .default([])
      .describe('Tags as they would be.'),
  }),
  example: {
    tags: [
      {
        id: null,
        tag: { path: 'harbour/feeder_11/frequency', source: { kind: 'point', linkId: 1, address: 'holding/72' }, type: 'float32' },
      },
    ],
  },
  answer: loadChange,
  faults: ['entry.gone'],
})

export const checkLink = operation('POST /links/check', {
  size: 'many',
  group,
  needs: 'configure',
  does: 'Walks the path of a draft to the far side, one line per step as it happens.',
  body: linkTrial,
  example: { link: example },
  answer: checkPart,
  as: 'lines',
  engine: true,
  farSide: true,
  faults: ['entry.gone'],
})

export const callOperation = operation('POST /links/call', {
  size: 'many',
  group,
  needs: 'configure',
  does: 'Makes one call of a web API as a draft has it, and tells what came back.',
  body: linkTrial.extend({ operation: operationName, given: z.record(z.string().max(100), z.string().max(20_000)).default({}) }),
  example: { link: webApiExample, operation: 'tariff', given: { zone: 'north' } },
  answer: callOutcome,
  engine: true,
  farSide: true,
  faults: ['entry.gone', 'http.call'],
})

export const readApiDescription = operation('POST /links/describe', {
  size: 'many',
  group,
  needs: 'configure',
  does: 'Reads the description of a web API (OpenAPI 3.0 or 3.1), given as text or found at an address that is asked as the draft has it.',
  body: linkTrial.extend({
    address: z
      .string()
      .trim()
      .max(2000)
      .default('')
      .describe('Where it is; references from it are followed on the same host. Empty: nowhere.'),
    text: z.string().max(4_000_000).default('').describe('JSON or YAML; empty: it is asked for at the address.'),
  }),
  example: { link: webApiExample, address: 'https://tariffs.port.example/openapi.json' },
  answer: apiDescription,
  engine: true,
  farSide: true,
  faults: ['entry.gone', 'http.description', 'http.call', 'worker.away'],
})

export const findWaysIn = operation('POST /links/find', {
  group,
  needs: 'configure',
  does: 'Asks the far side of a draft which servers and ways in it offers.',
  body: linkTrial,
  example: { link: { name: 'Arm 1', kind: 'opcua', settings: { address: '10.8.0.21:4840' } } },
  answer: anyFound,
  engine: true,
  farSide: true,
})

export const browse = operation('POST /links/{id}/browse', {
  group,
  needs: 'look',
  does: 'What lies inside a place on the far side.',
  body: place,
  example: { address: '' },
  answer: childrenFound,
  engine: true,
  farSide: true,
})

export const placesInDetail = operation('POST /links/{id}/details', {
  group,
  needs: 'look',
  does: 'Type, access, unit and present value of places on the far side.',
  body: z.object({ places: z.array(place).max(500, 'At most 500 places at once.') }),
  example: { places: [{ address: 'ns=2;s=Arm.Boom.Angle' }] },
  size: 'many',
  answer: z.array(placeDetails),
  engine: true,
  farSide: true,
})

export const search = operation('POST /links/{id}/search', {
  group,
  needs: 'look',
  does: 'Looks for names on the far side, or for paths where the text has a “/”; one line per part found.',
  body: z.object({ text: z.string().trim().min(1, 'Type a part of a name, or of a path with “/”.').max(240) }),
  example: { text: 'pressure' },
  answer: searchPart,
  as: 'lines',
  engine: true,
  farSide: true,
})

export const branch = operation('POST /links/{id}/branch', {
  group,
  needs: 'look',
  does: 'Every point below a place that can become a tag; one line per part.',
  body: place,
  example: { address: 'ns=2;s=Arm.Boom' },
  answer: branchPart,
  as: 'lines',
  engine: true,
  farSide: true,
})

export const tryLinkNow = operation('POST /links/{id}/try-now', {
  group,
  needs: 'operate',
  does: 'Tries at once what a link waits with because it failed: to connect, or to ask a unit that is left out of the round.',
  body: z.object({ unit: z.string().max(80).nullable().default(null).describe('One part of the far side; null: all of it.') }),
  example: { unit: null },
  answer: z.object({ tried: z.literal(true) }),
  engine: true,
  faults: ['link.off', 'entry.gone'],
})

export const walkLink = operation('POST /links/{id}/check', {
  ...walk,
  group,
  does: 'Walks the path of a link as it is, one line per step as it happens; after a stop a line says what that means.',
})

export const linkChecks = operation('GET /links/{id}/checks', {
  ...checks,
  group,
  does: 'The last checks of the path of a link, those that were made by themselves when it broke included; the newest first.',
})

export const trafficQuery = {
  after: numberText(0, Number.MAX_SAFE_INTEGER).optional().describe('Frames after this one; left out: from now on.'),
  limit: numberText(1, 1000).default(500),
}

export const linkTraffic = operation('GET /links/{id}/traffic', {
  group,
  needs: 'configure',
  does: 'What passed at the connections of a link. It is copied as long as somebody asks.',
  query: trafficQuery,
  answer: trafficPart,
  engine: true,
  faults: ['link.off'],
})

export const listUnclaimed = operation('GET /links/{id}/unclaimed', {
  group,
  needs: 'look',
  does: 'Messages of a link that nobody claims, by topic: form, rate and the last value.',
  query: listQuery(['-perSecond', 'topic', 'count', 'at'], listWhole),
  answer: unclaimedPage,
  engine: true,
  faults: ['link.off'],
})

export const listTables = operation('GET /links/{id}/tables', {
  group,
  needs: 'configure',
  does: 'The tables, views and procedures of the database that a link goes to, as far as our account may see them.',
  query: listQuery(['table', 'schema'], listWhole),
  answer: pageOf(listedTable),
  engine: true,
  farSide: true,
})

export const showTable = operation('POST /links/{id}/table', {
  group,
  needs: 'configure',
  does: 'The columns of a table, or the parameters of a procedure.',
  body: tablePlace.extend({ procedure: z.boolean().default(false) }),
  example: { schema: '', table: 'energy' },
  answer: tablePlace.extend({ columns: z.array(tableColumn) }),
  engine: true,
  farSide: true,
  faults: ['sql.no-table'],
})

export const createTable = operation('POST /links/{id}/create-table', {
  group,
  needs: 'configure',
  does: 'Makes a table, or shows the statements that would.',
  body: z.object({ table: newTable, run: z.boolean().default(false).describe('Whether they are run, or only shown.') }),
  example: { table: { table: 'energy', columns: [{ name: 'kwh', type: 'double precision' }] }, run: false },
  answer: z.object({ statements: z.array(z.string()) }),
  engine: true,
  farSide: true,
  faults: ['sql.statement'],
})
