import { fault, type Fault } from '#core/faults/catalogue'
import type { CheckPart, PathKind } from '#shared/diagnosis'
import type { PathWatch } from '../diagnosis/pathWatch'
import type { Engine } from '../engine'

interface Parts {
  engine: Engine
  paths: PathWatch
}

interface Walk {
  start(signal: AbortSignal): AsyncGenerator<CheckPart>
}

type Finder = (parts: Parts, id: number, entry: number | null) => Walk | Fault | null

/** How the path of each kind of thing is walked; null: there is no such thing. */
const finders: Record<PathKind, Finder> = {
  link: ({ engine, paths }, id) => {
    const link = engine.link(id)
    return link ? { start: (signal) => paths.walkLink(id, link, signal, 'asked') } : null
  },
  outlet: ({ engine, paths }, id, entry) => {
    const outlet = engine.outlet(id)
    if (!outlet) return null
    const steps = entry === null ? null : outlet.check(entry)
    if (entry !== null && steps === null) return fault('outlet.off', {})
    return { start: (signal) => paths.walkOutlet(id, outlet, signal, 'asked', steps) }
  },
  bridge: ({ engine, paths }, id) => {
    const [bridge, runner] = [engine.wanted.things.bridge.get(id), engine.bridges.get(id)]
    return bridge && runner ? { start: (signal) => paths.walkBridge(bridge, runner, signal, 'asked') } : null
  },
  tag: ({ engine, paths }, id) => {
    const tag = engine.tags.byTagId(id)
    return tag ? { start: (signal) => paths.walkTag(tag, signal) } : null
  },
}

/** How somebody has a path walked; a fault where there is nothing to walk to. */
export const walkOf = (parts: Parts, of: PathKind, id: number, entry: number | null): Walk | Fault =>
  finders[of](parts, id, entry) ?? fault('entry.gone', { thing: of, id })

export const isThere = (engine: Engine, of: PathKind, id: number): boolean => {
  const there = { link: engine.link(id), outlet: engine.outlet(id), bridge: engine.bridges.get(id), tag: engine.tags.byTagId(id) }
  return there[of] !== undefined
}
