import { X509Certificate } from 'node:crypto'
import { CertificatePurpose, createSelfSignedCertificate, generatePrivateKey, privateKeyToPEM } from 'node-opcua-crypto'

export interface KeyPair {
  /** PEM. */
  certificate: string
  key: string
}

interface Wanted {
  commonName: string
  organization: string
  applicationUri: string
  dns: string[]
  ip: string[]
  days?: number
  from?: Date
  bits?: 1024 | 2048 | 3072 | 4096
}

const dayMs = 86_400_000

/** Makes a self-signed application certificate as OPC 10000-6, 6.2.2 asks for it. */
export const makeSelfSigned = async (wanted: Wanted): Promise<KeyPair> => {
  const { commonName, organization, applicationUri, dns, ip, days = 3650, from = new Date(Date.now() - dayMs), bits = 2048 } = wanted
  const privateKey = await generatePrivateKey(bits)
  const { cert } = await createSelfSignedCertificate({
    privateKey,
    subject: `/CN=${commonName}/O=${organization}`,
    applicationUri,
    dns,
    ip,
    validity: days,
    notBefore: from,
    purpose: CertificatePurpose.ForApplication,
  })
  const { privPem } = await privateKeyToPEM(privateKey)
  return { certificate: cert, key: privPem }
}

export const derOf = (pem: string): Buffer => new X509Certificate(pem).raw
export const pemOf = (der: Buffer): string => new X509Certificate(der).toString()
