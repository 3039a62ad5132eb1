/** How the links of another copy are. */
export const healthNamespace = 'urn:keen-conduit:links'

/** The method of a link’s object that walks its path; it gives what it found as JSON. */
export const walkMethod = 'WalkPath'

/** What another copy of this application shows of what lies behind its links: each is asked for when somebody looks. */
export const placeNamespace = 'urn:keen-conduit:places'

/** Whether a node is one of those, by its address: to look through all of them would be to look through whole plants. */
export const isBehindLinks = (address: string) => address.startsWith(`nsu=${placeNamespace};`)
