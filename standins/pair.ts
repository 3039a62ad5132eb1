import { makeSelfSigned } from '#security/selfSigned'

/** By what a stand-in shows who it is, in PEM; its certificate is its own authority. */
export interface Pair {
  cert: string
  key: string
}

export const pairFor = async (what: string, valid: { from?: Date; days?: number } = {}): Promise<Pair> => {
  const names = {
    commonName: `Harrow Sound ${what}`,
    organization: 'Harrow Sound',
    applicationUri: `urn:harrow-sound:${what.replaceAll(' ', '-')}`,
  }
  const { certificate, key } = await makeSelfSigned({ ...names, dns: ['localhost'], ip: ['127.0.0.1'], ...valid })
  return { cert: certificate, key }
}
