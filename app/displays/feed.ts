import type { InjectionKey, Ref } from 'vue'
import type { Pane } from '#core/displays/settings'
import type { PaneContent, ShownTag } from '#shared/displays'
import type { LiveValue } from '#shared/values'

/** Where panes get what they show: from whoever is signed in, or by the right of a wall link. */
export interface DisplayFeed {
  /** What goes by a name; undefined: it is not known yet. */
  tagOf(named: string): ShownTag | undefined
  valueOf(id: number): LiveValue | undefined
  /** The clock of the engine; Unix milliseconds. */
  now: Readonly<Ref<number>>
  /** Nobody knows what values are now. */
  isAway: Readonly<Ref<boolean>>
  /** Whether names lead to pages. */
  hasPages: boolean
  fill(pane: Pane, columns: number): Promise<PaneContent>
}

export const displayFeed: InjectionKey<DisplayFeed> = Symbol('what panes show')

export const useFeed = (): DisplayFeed => inject(displayFeed)!
