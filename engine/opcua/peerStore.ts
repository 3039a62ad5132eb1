import { StatusCodes, type OPCUACertificateManager, type StatusCode } from 'node-opcua'

type Store = Pick<
  OPCUACertificateManager,
  'initialize' | 'dispose' | 'checkCertificate' | 'verifyCertificate' | 'trustCertificate' | 'rejectCertificate' | 'getTrustStatus'
>

/**
 * The package keeps certificates in folders of its own. Here the decisions are part of the site's
 * configuration; this stands in for those folders and asks `judge` for each certificate that comes.
 */
export const peerStore = (judge: (der: Buffer) => StatusCode) => {
  const first = (chain: Buffer | Buffer[]) => (Array.isArray(chain) ? chain[0]! : chain)
  const store = {
    referenceCounter: 0,
    automaticallyAcceptUnknownCertificate: false,
    initialize: () => Promise.resolve(),
    dispose: () => Promise.resolve(),
    checkCertificate: (chain: Buffer | Buffer[], done?: (error: null, status: StatusCode) => void) => {
      const status = judge(first(chain))
      // certificates of applications are awaited, those of users are called back for
      done?.(null, status)
      return Promise.resolve(status)
    },
    verifyCertificate: () => Promise.resolve('Good'),
    trustCertificate: () => Promise.resolve(),
    rejectCertificate: () => Promise.resolve(),
    getTrustStatus: (certificate: Buffer) => Promise.resolve(judge(certificate)),
    addIssuer: () => Promise.resolve(),
    addRevocationList: () => Promise.resolve(),
    hasIssuer: () => Promise.resolve(false),
    completeCertificateWithMissingIssuer: (chain: Buffer | Buffer[]) => Promise.resolve(chain),
  }
  return store as unknown as Store & OPCUACertificateManager
}

/** For connections that carry no certificate, and for the package's look at our own. */
export const acceptsAll = peerStore(() => StatusCodes.Good)
