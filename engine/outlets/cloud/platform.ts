import type { Fault } from '#core/faults/catalogue'
import type { ModelStep, PlatformModel, StepResult, TakenValues, ValueParcel } from '#core/cloud/entries'
import type { PlatformWay } from '#shared/outlets/cloudPlatform'
import type { Security } from '../../trust/security'
import type { Wire } from '../../wire/wire'

/**
 * A platform as the rest of the outlet sees it: an adapter of one file, listed in `platforms/registry.ts`. It carries requests there
 * and answers back, and decides nothing: what waits, what is tried again and what is to be changed over there are none of its business.
 *
 * Each call rejects with a `PlatformFailure` where nothing came of it, ends within the patience of the settings, and stops at once
 * when its signal is given. Calls do not overlap but for `model` and `send`.
 *
 * @example
 * const makeOwn: PlatformMaker<'own'> = ({ base }, { site }) => ({
 *   model: async () => platformModel.parse(await ask(`${base}/${site}/assets`)),
 *   apply: async (steps) => Promise.all(steps.map(carryOut)),
 *   send: async (parcels) => takenValues.parse(await tell(`${base}/${site}/points`, parcels)),
 *   close: async () => {},
 * })
 */
export interface Platform {
  /** Classes and equipment of this site over there, whoever made them. */
  model(signal: AbortSignal): Promise<PlatformModel>
  /** Does these in their order, each by itself; answers as many as were given. */
  apply(steps: readonly ModelStep[], signal: AbortSignal): Promise<StepResult[]>
  /** Hands values over. A parcel that comes again under its id is not to be counted again. */
  send(parcels: readonly ValueParcel[], signal: AbortSignal): Promise<TakenValues>
  /** So far its clock is ahead of ours, ms, as far as it told; null: it does not. */
  readonly clockAhead?: number | null
  close(): Promise<void>
}

export interface PlatformContext {
  /** By what it knows this site. */
  site: string
  security: Security
  wire: Wire
}

export type PlatformMaker<K extends PlatformWay['kind']> = (way: Extract<PlatformWay, { kind: K }>, context: PlatformContext) => Platform

/** Why nothing came of what a platform was asked. */
export class PlatformFailure extends Error {
  constructor(
    readonly why: Fault,
    readonly facts: {
      /** How long it wants to be left alone, ms; left out: it does not say. */
      after?: number | null
      /** The same in smaller pieces may be taken. */
      isTooLarge?: boolean
    } = {},
  ) {
    super(why.what)
  }
}
