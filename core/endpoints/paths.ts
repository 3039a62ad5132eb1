/** Paths of endpoints, as OpenAPI writes them: /berths/{berth}/calls/{voyage}. */

const hole = /\{([^{}]*)\}/g
const holeName = /^[a-zA-Z][a-zA-Z0-9_]{0,39}$/

/** What the outlet has of its own. */
export const ownPaths = ['/tags', '/changes', '/docs', '/openapi.json'] as const

/** What is wrong with a path; null: nothing. */
export const endpointPathProblem = (path: string): string | null => {
  if (!path.startsWith('/')) return 'A path begins with “/”.'
  if (path === '/') return 'A path has at least one part, as in /berths.'
  const parts = path.slice(1).split('/')
  if (ownPaths.some((own) => `/${parts[0]}` === own)) return `/${parts[0]} is the outlet’s own; choose another path.`
  for (const part of parts) {
    if (part === '') return 'Between two “/” there is something, and none stands at the end.'
    if (part === '.' || part === '..') return 'A path goes down only: no part of it is “.” or “..”.'
    const name = /^\{(.*)\}$/.exec(part)?.[1]
    if (name !== undefined && !holeName.test(name)) return `“${part}” names no parameter: a name has letters, digits and “_”.`
    if (name === undefined && !/^[A-Za-z0-9._~-]+$/.test(part))
      return `“${part}” has to be letters, digits, “.”, “_”, “~” or “-”, or a parameter in braces as a whole.`
  }
  const names = namesIn(path)
  const twice = names.find((name, i) => names.indexOf(name) < i)
  return twice === undefined ? null : `{${twice}} stands in it twice.`
}

/** The parameters of a path, in their order. */
export const namesIn = (path: string): string[] => [...path.matchAll(hole)].map(([, name]) => name!)

/** Two paths of one shape cannot be told apart. */
export const shapeOf = (path: string): string => path.replaceAll(hole, '{}').toLowerCase()
