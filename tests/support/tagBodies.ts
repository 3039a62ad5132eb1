interface Flat {
  path?: unknown
  linkId?: unknown
  address?: unknown
  options?: unknown
  interval?: unknown
}

/** A tag of a link's point as a program would send it; nothing is checked here. */
export const pointBody = ({ linkId, address, options, interval, ...rest }: Flat & Record<string, unknown>) => ({
  ...rest,
  source: { kind: 'point', linkId, address, options, interval },
})

/** The address of a tag that is a link's point. */
export const addressOf = ({ source }: { source: object }): string => ('address' in source ? String(source.address) : '')
