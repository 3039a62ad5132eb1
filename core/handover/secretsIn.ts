/**
 * Every secret inside of settings, in clear, to find it wherever else it stands.
 * @param open what a sealed one is; null: it was sealed elsewhere
 */
export const secretsIn = (settings: unknown, open: (sealed: string) => string | null): string[] => {
  if (typeof settings !== 'object' || settings === null) return []
  if ('sealed' in settings && typeof settings.sealed === 'string') return [open(settings.sealed)].filter((one) => one !== null)
  return Object.values(settings).flatMap((one) => secretsIn(one, open))
}
