import type { Destination } from '#core/bridges/settings'
import { hasPoints, partWord, protocols } from '#core/links/registry'
import { folded } from '#core/lists/folded'
import { folderOf } from '#core/tags/path'
import { counted } from '#core/text/counted'
import type { BridgeStatus } from '#shared/bridges/status'
import type { Link } from '#shared/links/link'
import type { Flow } from '#shared/flow'
import { rulesOf, type SourceKind } from '#shared/sources/registry'
import type { LinkStatus, OutletStatus } from '#shared/status'

/** Where a path goes on: an outlet and who is connected there, or the receiver of a bridge. */
export interface PathEnd {
  to: string
  name: string
  flow: Flow
  note: string
}

/** One path from its source to whoever uses it. */
export interface Path {
  key: string
  to: string
  /** Where it says why it does not work. */
  why: string
  name: string
  kind: string
  flow: Flow | null
  sentence: string | null
  tags: number | null
  goodTags: number | null
  answerMs: number | null
  units: NonNullable<LinkStatus['units']>
  /** What its units are called; absent: it has none. */
  part?: string
  ends: PathEnd[]
}

export const urgency: Record<Flow, number> = { broken: 0, late: 1, flowing: 2, off: 3 }
/** More than a dozen are no list to look through any more. */
export const mostShown = 12

/** Every path from a source to its consumers, trouble first; of many, what is well is folded by kind. */
export const useLineUp = () => {
  const live = useLive()
  const lists = useLists()

  const outletsBy = (feeds: (outlet: OutletStatus) => boolean): PathEnd[] =>
    (live.status?.outlets ?? []).filter(feeds).map(({ id, flow, clients }) => ({
      to: flow === 'broken' ? `/outlets/${id}/path` : `/outlets/${id}`,
      flow,
      note: counted(clients.length, 'client'),
      name: lists.outlets.find((outlet) => outlet.id === id)?.name ?? '',
    }))

  /** Links that only receive are ends of bridges, unless something is wrong with them. */
  const isShown = ({ id, kind }: Pick<Link, 'id' | 'kind'>) => {
    const flow = live.status?.links.find((status) => status.id === id)?.flow
    return hasPoints(kind) || flow === 'broken' || flow === 'late'
  }

  const bridgePaths = computed(() => {
    const byId = new Map((live.status?.bridges ?? []).map((status) => [status.id, status]))
    return lists.bridges.map(({ id, name, send }): Path => {
      const status = byId.get(id)
      return {
        ...{ key: `bridge ${id}`, to: `/bridges/${id}`, why: `/bridges/${id}/path`, name, kind: 'Bridge' },
        ...{ flow: status?.flow ?? null, sentence: status?.sentence ?? null, tags: null, goodTags: null, answerMs: null, units: [] },
        ends: send.map((destination) => receiverOf(destination, status)),
      }
    })
  })

  const receiverOf = (destination: Destination, status: BridgeStatus | undefined): PathEnd => {
    const delivery = status?.destinations.find(({ number }) => number === destination.number)
    const note = delivery && delivery.kept > 0 ? `${counted(delivery.kept, 'record')} kept` : ''
    const shared = { flow: delivery?.flow ?? ('off' as const), note }
    if (destination.kind === 'outlet')
      return { ...shared, to: `/outlets/${destination.outletId}`, name: lists.placeName('outlet', destination.outletId) }
    if (destination.kind !== 'tags') return { ...shared, to: `/links/${destination.linkId}`, name: lists.linkName(destination.linkId) }
    const [first] = destination.fields
    return { ...shared, to: `/tags?below=${encodeURIComponent(folderOf(first!.into))}`, name: first!.into }
  }

  const linkPaths = computed(() => {
    const byId = new Map((live.status?.links ?? []).map((status) => [status.id, status]))
    return lists.links.filter(isShown).map(({ id, name, kind }): Path => {
      const status = byId.get(id)
      return {
        key: `link ${id}`,
        to: `/links/${id}`,
        why: `/links/${id}/path`,
        name,
        kind: protocols[kind].title,
        flow: status?.flow ?? null,
        sentence: status?.sentence ?? null,
        tags: status?.tags ?? null,
        goodTags: status?.goodTags ?? null,
        answerMs: status?.answerMs ?? null,
        units: status?.units && status.units.length > 1 ? status.units : [],
        part: partWord(kind),
        ends: outletsBy(({ feeds }) => feeds.links.includes(id)),
      }
    })
  })

  const setPaths = computed(() => {
    const byId = new Map((live.status?.recordSets ?? []).map((status) => [status.id, status]))
    return lists.recordSets.map(({ id, name }): Path => {
      const status = byId.get(id)
      return {
        ...{ key: `set ${id}`, to: `/records/${id}`, why: `/records/${id}`, name, kind: 'Record set', answerMs: null, units: [] },
        ...{ flow: status?.flow ?? null, sentence: status?.sentence ?? null },
        ...{ tags: status?.tags ?? null, goodTags: status?.goodTags ?? null },
        ends: outletsBy(({ feeds }) => feeds.others.includes(`record set ${id}`)),
      }
    })
  })

  const otherPaths = computed(() =>
    (live.status?.sources ?? [])
      .filter(({ tags }) => tags > 0)
      .map(({ kind, tags, goodTags }): Path => {
        const { title, subtitle } = rulesOf(kind as SourceKind)
        const flow = goodTags === tags ? 'flowing' : 'late'
        const sentence =
          flow === 'flowing'
            ? `${subtitle.charAt(0).toUpperCase()}${subtitle.slice(1)}`
            : `${counted(tags - goodTags, 'tag')} without a value`
        const ends = outletsBy(({ feeds }) => feeds.others.includes(kind))
        return {
          key: kind,
          to: `/tags?source=${kind}`,
          why: `/tags?source=${kind}`,
          name: title,
          kind: '',
          flow,
          sentence,
          tags,
          goodTags,
          answerMs: null,
          units: [],
          ends,
        }
      }),
  )

  const paths = computed(() =>
    [...linkPaths.value, ...setPaths.value, ...bridgePaths.value, ...otherPaths.value].sort(
      (a, b) => urgency[a.flow ?? 'late'] - urgency[b.flow ?? 'late'] || a.name.localeCompare(b.name, 'en', { numeric: true }),
    ),
  )
  const lineUp = computed(() =>
    folded(paths.value, {
      most: mostShown,
      isWell: ({ flow, tags, goodTags }) => flow === 'off' || (flow === 'flowing' && goodTags === tags),
      kindOf: ({ kind, name, flow }) => `${flow} ${kind || name}`,
    }),
  )
  return { lineUp }
}
