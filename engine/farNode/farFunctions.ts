import { fault } from '#core/faults/catalogue'
import { quality } from '#core/tags/quality'
import type { Finding } from '#shared/notes'
import type { ValueOrigin } from '#shared/values'
import { writer } from '#shared/writes'
import type { Engine } from '../engine'
import type { WriteOutcome } from '../links/driver'
import { answeredByNodes } from '../nodes/forwarding'
import { MeasuringFunctions } from '../rpc/measuring'
import type { ThingParts } from '../rpc/things'

/** What the site of a node may ask of it: all that may be asked of things that run here, and what its own engine would know by itself. */
export class FarFunctions extends MeasuringFunctions {
  constructor(private far: ThingParts) {
    super(far)
  }

  /** The site records who wrote what. */
  writeThrough = (tagId: number, value: boolean | number | string, by: unknown): Promise<WriteOutcome> =>
    this.ofTag(tagId, (engine, handle) => engine.writes.through(handle, value, writer.parse(by)))

  releaseThrough = (tagId: number): Promise<WriteOutcome> =>
    this.ofTag(tagId, (engine, handle) => {
      const source = engine.tags.byTagId(tagId)!.source
      const link = source.kind === 'point' ? engine.link(source.linkId) : undefined
      return link ? link.release(handle) : Promise.resolve(gone(tagId))
    })

  origin = (tagId: number): ValueOrigin | null => this.far.engine.origin(tagId)

  findings = (): Finding[] => this.far.engine.findings()

  /** Calls one of them. Rejects where nodes do not answer that. */
  call(name: string, args: readonly unknown[]): unknown {
    if (!answeredByNodes.has(name)) throw new Error(`a node does not answer ${name}`)
    return (this[name as keyof this] as (...args: readonly unknown[]) => unknown)(...args)
  }

  /** The site is gone: nobody waits for what was begun. */
  close() {
    this.work.close()
  }

  private ofTag(tagId: number, work: (engine: Engine, handle: number) => Promise<WriteOutcome>): Promise<WriteOutcome> {
    const { engine } = this.far
    const handle = engine.tags.handleOf(tagId)
    return handle === undefined ? Promise.resolve(gone(tagId)) : work(engine, handle)
  }
}

const gone = (id: number): WriteOutcome => ({
  ok: false,
  quality: quality.BadNodeIdUnknown,
  fault: fault('entry.gone', { thing: 'tag', id }),
})
