import { protocols } from '#core/links/registry'
import { folded } from '#core/lists/folded'
import { counted } from '#core/text/counted'
import type { Flow } from '#shared/flow'
import { rulesOf, type SourceKind } from '#shared/sources/registry'
import type { LinkStatus, OutletStatus } from '#shared/status'

/** Where a path goes on: an outlet, and who is connected there. */
export interface PathEnd {
  id: number
  name: string
  flow: Flow
  clients: number
}

/** One path from its source to whoever uses it. */
export interface Path {
  key: string
  to: string
  name: string
  kind: string
  flow: Flow | null
  sentence: string | null
  tags: number | null
  goodTags: number | null
  answerMs: number | null
  units: NonNullable<LinkStatus['units']>
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
      id,
      flow,
      clients: clients.length,
      name: lists.outlets.find((outlet) => outlet.id === id)?.name ?? '',
    }))

  const linkPaths = computed(() => {
    const byId = new Map((live.status?.links ?? []).map((status) => [status.id, status]))
    return lists.links.map(({ id, name, kind }): Path => {
      const status = byId.get(id)
      return {
        key: `link ${id}`,
        to: `/links/${id}`,
        name,
        kind: protocols[kind].title,
        flow: status?.flow ?? null,
        sentence: status?.sentence ?? null,
        tags: status?.tags ?? null,
        goodTags: status?.goodTags ?? null,
        answerMs: status?.answerMs ?? null,
        units: status?.units && status.units.length > 1 ? status.units : [],
        ends: outletsBy(({ feeds }) => feeds.links.includes(id)),
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
    [...linkPaths.value, ...otherPaths.value].sort(
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
