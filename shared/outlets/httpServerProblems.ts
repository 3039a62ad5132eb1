import { endpointProblems } from '#core/endpoints/problems'
import type { LinkKind } from '#core/links/registry'
import type { FieldMessage } from '../faults'
import { withoutNameText, type HttpServerSettings } from './httpServer'

/** What is wrong with the endpoints of a server beside the links that are there. */
export const httpServerProblems = (
  { users, endpoints }: HttpServerSettings,
  links: readonly { id: number; name: string; kind: LinkKind }[],
): FieldMessage[] =>
  endpointProblems(endpoints, {
    link: (id) => links.find((link) => link.id === id),
    names: [withoutNameText, ...users.map(({ name }) => name)],
  }).map(({ path, message }) => ({ path: `settings.endpoints.${path}`, message }))
