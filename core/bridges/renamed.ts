import { isPattern } from '../tags/pattern'
import type { BridgeDraft } from './settings'

type Parts = Pick<BridgeDraft, 'when' | 'take' | 'send'>

/** A bridge once tags are called otherwise. Patterns stay as they are: they say how paths are built, and name no tag. */
export const renamedIn = ({ when, take, send }: Parts, nowCalled: (path: string) => string): Parts => {
  const named = (text: string) => (isPattern(text) || text.includes('{') ? text : nowCalled(text))
  return {
    when: when.map((trigger) => ('tag' in trigger ? { ...trigger, tag: named(trigger.tag) } : trigger)),
    take: take.map((input) => (input.kind === 'tag' ? { ...input, path: named(input.path) } : input)),
    send: send.map((destination) =>
      destination.kind === 'tags'
        ? { ...destination, fields: destination.fields.map(({ into, from }) => ({ into: named(into), from })) }
        : destination,
    ),
  }
}
