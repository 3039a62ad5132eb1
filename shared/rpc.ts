import type { LinkDraft } from './links/link'
import type { PointDefinition } from '#core/links/protocol'
import type { CheckStep, EngineStatus, LiveValue, ValueOrigin, WriteResult } from './status'

/** What the web side may ask of the engine. */
export interface EngineApi {
  status(): EngineStatus
  /** Walks from the name to the first reply; steps arrive through `checkStep`, in order. */
  check(id: string, draft: LinkDraft): Promise<void>
  stopCheck(id: string): void
  /** Reads an address once, over a connection of its own, without making a tag. */
  tryRead(draft: LinkDraft, point: PointDefinition): Promise<ValueOrigin>
  write(tagId: number, value: boolean | number | string): Promise<WriteResult>
  origin(tagId: number): ValueOrigin | null
  /** Which tags the viewer has on screen; replaces what it watched before. */
  watch(viewer: string, tagIds: number[]): void
  leave(viewer: string): void
  disconnectClient(outletId: number, clientId: string): boolean
}

/** What the engine tells the web side. `deliver` resolves once the page has taken the values. */
export interface WebApi {
  checkStep(id: string, step: CheckStep): void
  deliver(viewer: string, values: LiveValue[]): Promise<void>
}

/** Messages between a page and the web side. */
export type PageMessage = { say: 'watch'; tags: number[] } | { say: 'origin'; tag: number | null } | { say: 'taken'; batch: number }

export type LiveMessage =
  | { say: 'values'; batch: number; values: LiveValue[] }
  | { say: 'status'; status: EngineStatus | null }
  | { say: 'origin'; tag: number; origin: ValueOrigin | null }
  | { say: 'changed'; revision: number }
