import { X509Certificate } from 'node:crypto'
import type { CertificateFacts } from '#core/certificates/judge'
import { visible } from '#core/text/visible'

/** Reads a certificate, DER or PEM. Throws where it is none. */
export const certificateFacts = (certificate: Buffer | string): CertificateFacts => {
  const x509 = new X509Certificate(certificate)
  const names = alternativeNames(x509.subjectAltName)
  return {
    subject: oneLine(x509.subject),
    name: oneLine(commonName(x509.subject) ?? x509.subject),
    issuer: oneLine(x509.issuer),
    selfSigned: x509.subject === x509.issuer,
    isAuthority: x509.ca,
    validFrom: Date.parse(x509.validFrom),
    validTo: Date.parse(x509.validTo),
    hosts: names.filter(({ kind }) => kind !== 'URI').map(({ text }) => text),
    applicationUri: names.find(({ kind }) => kind === 'URI')?.text ?? null,
    keyBits: x509.publicKey.asymmetricKeyDetails?.modulusLength ?? null,
    fingerprint: x509.fingerprint256.replaceAll(':', '').toLowerCase(),
    fingerprintSha1: x509.fingerprint.replaceAll(':', '').toLowerCase(),
  }
}

/** Anybody may have made the certificate, and put anything into its names. */
const oneLine = (name: string) => visible(name.split('\n').join(', '))
const commonName = (subject: string) => /^CN=(.*)$/m.exec(subject)?.[1]

/** Node.js quotes entries that hold a comma, as JSON does. */
const alternativeNames = (text: string | undefined): { kind: string; text: string }[] =>
  [...(text ?? '').matchAll(/(URI|DNS|IP Address):("(?:[^"\\]|\\.)*"|[^,]*)/g)].map(([, kind, value]) => ({
    kind: kind!,
    text: value!.startsWith('"') ? (JSON.parse(value!) as string) : value!,
  }))

/** Whether an authority issued the certificate, by name and by signature. */
export const isIssuedBy = (certificate: Buffer, authority: Buffer): boolean => {
  const [issued, issuer] = [new X509Certificate(certificate), new X509Certificate(authority)]
  return issuer.ca && issued.checkIssued(issuer) && issued.verify(issuer.publicKey)
}
