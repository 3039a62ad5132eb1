import type { Destination } from '#core/bridges/settings'
import { CallTarget } from './call'
import { FileTarget } from './file'
import { TableTarget } from './table'
import { TagTarget } from './tags'
import type { Surroundings, Target } from './target'
import { TopicTarget } from './topic'

/** What sends to a destination, by its kind. A new kind adds its line here. */
export const targetOf = (destination: Destination, around: Surroundings, { id, name }: { id: number; name: string }): Target => {
  switch (destination.kind) {
    case 'tags':
      return new TagTarget(around, pathsOf(destination), id, { who: name, via: 'bridge', place: name })
    case 'topic':
    case 'outlet':
      return new TopicTarget(around, destination, id)
    case 'table':
      return new TableTarget(around, destination)
    case 'file':
      return new FileTarget(around, destination, id)
    case 'call':
      return new CallTarget(around, destination)
  }
}

const pathsOf = ({ fields }: Destination) => fields.map(({ into }) => into)
