import type { LinkDraft } from '#shared/links/link'
import type { EngineApi } from '#shared/rpc'
import type { EngineStatus } from '#shared/status'
import type { PointDefinition } from '#core/links/protocol'
import type { Engine } from '../engine'
import type { LiveViews } from '../live/liveViews'
import { driverOf } from '../links/registry'
import type { WebSide } from './server'

const checkMostMs = 120_000

/** What one web side may call. Checks it started end with it. */
export class EngineFunctions implements EngineApi {
  private checks = new Map<string, AbortController>()

  constructor(
    private engine: Engine,
    private views: LiveViews,
    private fullStatus: () => EngineStatus,
    private web: WebSide,
  ) {}

  status = () => this.fullStatus()

  check = async (id: string, draft: LinkDraft) => {
    const abort = new AbortController()
    this.checks.set(id, abort)
    const limit = AbortSignal.any([abort.signal, AbortSignal.timeout(checkMostMs)])
    try {
      for await (const step of driverOf(draft.kind).check(draft.settings, limit)) {
        if (abort.signal.aborted) return
        void this.web.checkStep.asEvent(id, step)
      }
    } finally {
      this.checks.delete(id)
    }
  }

  stopCheck = (id: string) => this.checks.get(id)?.abort()

  stopAllChecks() {
    for (const check of this.checks.values()) check.abort()
  }

  tryRead = (draft: LinkDraft, point: PointDefinition) => driverOf(draft.kind).tryRead(draft.settings, point)
  write = (tagId: number, value: boolean | number | string) => this.engine.writeTag(tagId, value)
  origin = (tagId: number) => this.engine.origin(tagId)
  watch = (viewer: string, tagIds: number[]) => this.views.watch(viewer, tagIds)
  leave = (viewer: string) => this.views.leave(viewer)
  disconnectClient = (outletId: number, clientId: string) => this.engine.disconnectClient(outletId, clientId)
}
