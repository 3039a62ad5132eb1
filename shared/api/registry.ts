import * as alarms from './alarms'
import * as bench from './bench'
import * as bridges from './bridges'
import * as calls from './calls'
import * as certificates from './certificates'
import * as checks from './checks'
import * as deviceDescriptions from './deviceDescriptions'
import * as displays from './displays'
import * as equipment from './equipment'
import * as history from './history'
import * as imports from './imports'
import * as journal from './journal'
import * as links from './links'
import * as nodes from './nodes'
import * as notes from './notes'
import type { Operation } from './operation'
import * as outlets from './outlets'
import * as people from './people'
import * as relays from './relays'
import * as recordSets from './recordSets'
import * as site from './site'
import * as statistics from './statistics'
import * as tags from './tags'
import * as trendSets from './trendSets'
import * as watch from './watch'

const isOperation = (value: object): value is Operation => 'method' in value && 'answer' in value

const methods = ['GET', 'POST', 'PUT', 'DELETE']
const inOrder = ([, a]: [string, Operation], [, b]: [string, Operation]) =>
  a.path < b.path ? -1 : a.path > b.path ? 1 : methods.indexOf(a.method) - methods.indexOf(b.method)

const operationsOf = (group: object): [name: string, Operation][] =>
  Object.entries(group as Record<string, object>)
    .flatMap(([name, value]) => (isOperation(value) ? [[name, value] as [string, Operation]] : []))
    .sort(inOrder)

/** Every operation of the API by its name, in the order of the description. A new group adds its line here. */
export const operations = [
  ...[
    links,
    deviceDescriptions,
    tags,
    notes,
    bench,
    watch,
    checks,
    imports,
    bridges,
    recordSets,
    equipment,
    alarms,
    displays,
    history,
    trendSets,
    outlets,
    calls,
    relays,
    nodes,
    journal,
    site,
    statistics,
    certificates,
    people,
  ],
].flatMap(operationsOf)
