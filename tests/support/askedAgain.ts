/** A connection that was kept may end just as it is used again; what only asks may be asked once more. */
export const askedAgain = (ask: () => Promise<Response>): Promise<Response> => ask().catch(ask)

export const asked = (url: string, init: RequestInit = {}): Promise<Response> => askedAgain(() => fetch(url, init))
