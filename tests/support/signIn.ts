/** Signs in as a program would, and gives the cookie header of the session. */
export const signInTo = async (base: string, name: string, password: string): Promise<string> => {
  const response = await fetch(`${base}/api/session`, {
    method: 'POST',
    body: JSON.stringify({ name, password }),
    headers: { 'content-type': 'application/json' },
  })
  const cookie = response.headers.get('set-cookie')?.split(';')[0]
  if (!response.ok || !cookie) throw new Error(`${name} could not sign in: ${await response.text()}`)
  return cookie
}

/** The way of the very first person: the password for once, then one of their own. */
export const signInFirst = async (base: string, account: { name: string; password: string }, own: string): Promise<string> => {
  const cookie = await signInTo(base, account.name, account.password)
  await fetch(`${base}/api/session/password`, {
    method: 'PUT',
    body: JSON.stringify({ present: account.password, next: own }),
    headers: { 'content-type': 'application/json', cookie },
  })
  return cookie
}
