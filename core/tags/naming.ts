/** How the far side's names become names of tags. */
export const namingStyles = {
  lower: 'lower case with _',
  same: 'as they are there',
} as const
export type NamingStyle = keyof typeof namingStyles

/** `InEnvelope` and `In Envelope` become `in_envelope`; in any style what a path cannot hold is left out. */
export const tidyName = (name: string, style: NamingStyle): string => {
  const safe = name
    .replace(/[\u0000-\u001f\u007f]/g, '')
    .replaceAll('/', '_')
    .trim()
  if (style === 'same') return safe || '_'
  const lower = safe
    .replace(/([\p{Ll}\d])(\p{Lu})/gu, '$1_$2')
    .replace(/(\p{Lu})(\p{Lu}\p{Ll})/gu, '$1_$2')
    .replace(/[^\p{L}\p{N}]+/gu, '_')
    .replace(/^_+|_+$/g, '')
    .toLowerCase()
  return lower || '_'
}

/** Below a folder, the given names as a path; folders of the given depth are left out at the front. */
export const pathFrom = (below: string, names: readonly string[], leaveOut: number, style: NamingStyle): string => {
  const kept = names.slice(Math.min(leaveOut, names.length - 1)).map((name) => tidyName(name, style))
  return [...below.split('/').filter(Boolean), ...kept].join('/')
}

/** How many names all of these have in common at the front; their own last name never counts. */
export const commonDepth = (all: readonly (readonly string[])[]): number => {
  const [first, ...rest] = all
  if (!first) return 0
  let depth = first.length - 1
  for (const names of rest) {
    depth = Math.min(depth, names.length - 1)
    for (let i = 0; i < depth; i++) if (names[i] !== first[i]) depth = i
  }
  return depth
}
