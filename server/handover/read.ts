import { unzipSync } from 'fflate'
import { z } from 'zod'
import { fault } from '#core/faults/catalogue'
import { journalEntry } from '#shared/journal'
import { machineFacts, packCase, packForm, packHead, packRevision } from '#shared/handover'
import { pathRecord } from '#shared/diagnosis'
import { allStatistics } from '#shared/statistics'
import { engineStatus } from '#shared/status'
import { Refusal } from '../answers/refusalError'

/** Unpacked, so large at the most. */
const mostBytes = 256 * 1024 * 1024
const wanted = [
  'pack.json',
  'configuration.yaml',
  'status.json',
  'machine.json',
  'statistics.json',
  'path-checks.json',
  'case.json',
  'journal.jsonl',
  'revisions.jsonl',
] as const
type Name = (typeof wanted)[number]

/** A handover pack, each part by its contract. What is no pack, or one that this version does not read, is refused. */
export const readPack = (file: Uint8Array) => {
  const texts = textsIn(file)
  const head = read(texts, 'pack.json', packHead)
  if (head.form > packForm) throw unreadable(`it is of form ${head.form}, of a newer version; this one reads up to ${packForm}`)
  if (head.form < packForm) throw unreadable('it is of an older version and tells too little to be looked at here')
  return {
    head,
    configuration: texts['configuration.yaml'],
    status: read(texts, 'status.json', engineStatus),
    machine: read(texts, 'machine.json', machineFacts),
    statistics: read(texts, 'statistics.json', allStatistics),
    checks: read(texts, 'path-checks.json', z.array(pathRecord)),
    ...read(texts, 'case.json', packCase),
    journal: readLines(texts, 'journal.jsonl', journalEntry),
    revisions: readLines(texts, 'revisions.jsonl', packRevision),
  }
}
export type Pack = ReturnType<typeof readPack>

const unreadable = (problem: string) => new Refusal(fault('case.unreadable', { problem }))

const textsIn = (file: Uint8Array): Record<Name, string> => {
  const files = unpacked(file)
  const missing = wanted.find((name) => !files[name])
  if (missing) throw unreadable(`it holds no ${missing}`)
  const decoder = new TextDecoder()
  return Object.fromEntries(wanted.map((name) => [name, decoder.decode(files[name])])) as Record<Name, string>
}

const unpacked = (file: Uint8Array) => {
  let bytes = 0
  try {
    return unzipSync(file, {
      filter: ({ name, originalSize }) => {
        if (!(wanted as readonly string[]).includes(name)) return false
        bytes += originalSize
        if (bytes > mostBytes) throw new Error('unpacked it is larger than 256 MB')
        return true
      },
    })
  } catch (error) {
    throw unreadable((error as Error).message)
  }
}

const read = <C extends z.ZodType>(texts: Record<Name, string>, name: Name, contract: C): z.output<C> => parsed(texts[name], name, contract)

const readLines = <C extends z.ZodType>(texts: Record<Name, string>, name: Name, contract: C): z.output<C>[] =>
  texts[name]
    .split('\n')
    .filter((line) => line !== '')
    .map((line, i) => parsed(line, `line ${i + 1} of ${name}`, contract))

const parsed = <C extends z.ZodType>(text: string, where: string, contract: C): z.output<C> => {
  let value: unknown
  try {
    value = JSON.parse(text)
  } catch (error) {
    throw unreadable(`${where}: ${(error as Error).message}`)
  }
  const found = contract.safeParse(value)
  if (found.success) return found.data
  const [issue] = found.error.issues
  throw unreadable(`${where}: ${issue!.path.join('.')}: ${issue!.message}`)
}
