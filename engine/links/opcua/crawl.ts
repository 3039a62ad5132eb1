import { parted } from '#core/lists/parted'
import { isBehindLinks } from '#core/opcua/ourNamespaces'
import { isGood, qualityName, statusWords } from '#core/tags/quality'
import type { BranchPart, BrowsedNode, FailedPlace, FoundPlace, Place, SearchPart } from '#shared/browse'
import type { Explorer } from './browse'
import { inParallel } from '#pacing/inParallel'
import { detailsOf, requestsAtOnce } from './details'

const nodesPerRequest = 50
const mostLooked = 200_000
const mostFound = 500
/** The server's description of itself is not what anybody looks for in a plant. */
const ofTheServer = new Set(['i=2253', 'i=23470', 'i=31915'])

/** Walks everything below a place, broad before deep, each node once; yields what it found a request at a time. */
export async function* crawl(
  explorer: Explorer,
  from: Place,
  names: readonly string[],
  signal: AbortSignal,
): AsyncGenerator<{ found: FoundPlace[]; failed: FailedPlace[] }> {
  const seen = new Set<string>([from.address])
  let front: { address: string; names: readonly string[] }[] = [{ address: from.address, names }]
  while (front.length > 0 && seen.size < mostLooked) {
    const next: typeof front = []
    for (const part of parted(front, nodesPerRequest * requestsAtOnce)) {
      if (signal.aborted) return
      const children = await childrenOf(explorer, part)
      const found = freshOf(
        children.map(({ nodes }) => nodes),
        part,
        seen,
      )
      next.push(
        ...found
          .filter(({ opens, address }) => opens && !isBehindLinks(address))
          .map(({ address, names: path }) => ({ address, names: path })),
      )
      yield { found, failed: failedOf(children, part) }
    }
    front = next
  }
}

type Looked = Awaited<ReturnType<Explorer['childrenOfMany']>>

/** Places that the server did not show: they are named, for what is missing below them nobody could see. */
const failedOf = (children: Looked, parents: readonly { names: readonly string[] }[]): FailedPlace[] =>
  children.flatMap(({ status }, k) => (isGood(status) ? [] : [{ names: [...parents[k]!.names], why: statusWords(qualityName(status)) }]))

const childrenOf = async (explorer: Explorer, parents: readonly { address: string }[]): Promise<Looked> => {
  const parts = parted(parents, nodesPerRequest)
  return (await inParallel(parts, requestsAtOnce, (part) => explorer.childrenOfMany(part.map(({ address }) => address)))).flat()
}

const freshOf = (children: BrowsedNode[][], parents: readonly { names: readonly string[] }[], seen: Set<string>): FoundPlace[] =>
  children.flatMap((nodes, k) =>
    nodes
      .filter(({ address }) => !ofTheServer.has(address) && !seen.has(address) && seen.add(address))
      .map((node) => ({ ...node, names: [...parents[k]!.names, node.name] })),
  )

/** Finds by name, or, with a “/” in it, by path. */
export async function* search(explorer: Explorer, text: string, signal: AbortSignal): AsyncGenerator<SearchPart> {
  const wanted = text.trim().toLowerCase()
  const matches = wanted.includes('/')
    ? ({ names }: FoundPlace) =>
        names
          .join('/')
          .toLowerCase()
          .includes(wanted.replace(/^\/|\/$/g, ''))
    : ({ name }: FoundPlace) => name.toLowerCase().includes(wanted)
  let looked = 0
  let total = 0
  for await (const { found: nodes, failed } of crawl(explorer, { address: '', member: '' }, [], signal)) {
    looked += nodes.length
    const found = nodes.filter(matches).slice(0, mostFound - total)
    total += found.length
    yield { found, failed, looked, done: false }
    if (total >= mostFound) break
  }
  yield { found: [], failed: [], looked, done: true }
}

/** Every point below a place that can become a tag. */
export async function* branch(explorer: Explorer, from: Place, signal: AbortSignal): AsyncGenerator<BranchPart> {
  let looked = 0
  for await (const { found: nodes, failed } of crawl(explorer, from, [], signal)) {
    looked += nodes.length
    const variables = nodes.filter(({ kind }) => kind === 'variable')
    const details = await detailsOf(explorer, variables, false)
    const points = variables.map(({ names }, k) => ({ names, details: details[k]! })).filter(({ details: { type } }) => type !== null)
    yield { points, failed, looked, done: false }
  }
  yield { points: [], failed: [], looked, done: true }
}
