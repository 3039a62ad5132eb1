import type { Goal } from '../diagnosis/facts'
import type { FrameRule } from '../wire/frames'

/**
 * What the screens, the API and the checks need to know about a kind of outlet, without a running one. One
 * implementation per kind, listed in `registry.ts`.
 */
export interface OutletFacts {
  kind: string
  /** The name of the standard. */
  title: string
  /** One line under the title where a person chooses. */
  subtitle: string
  capabilities: OutletCapabilities
  /** How its frames are told apart on the wire; null: they cannot be. */
  frames: FrameRule | null
  /** Where consumers find it, in a word or two, as the finder shows it. */
  place(settings: unknown): string
  /** Where it goes, where it goes to others instead of letting them in. */
  goal?(settings: unknown): Goal | null
  /** The settings with the paths of tags and folders that are in them as they are now called. */
  renamed<S>(settings: S, nowCalled: (path: string) => string): S
}

export interface OutletCapabilities {
  /** Consumers connect to it, are listed, and can be sent out. */
  clients: boolean
  /** Consumers may write. */
  write: boolean
  /** It can come to itself as a consumer does. */
  check: boolean
  /** It has short names for consumers that take no paths. */
  names: boolean
  /** What it gives lies at addresses that a map says. */
  map: boolean
  /** There is something to set up at the consumer's side: a card tells what. */
  card: boolean
  /** Consumers send messages to it, which bridges may listen to. */
  messages: boolean
  /** It hands on messages of bridges. */
  sends: boolean
  /** What passes can be seen. */
  tap: boolean
}
