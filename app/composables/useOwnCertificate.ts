import { showOwnCertificate } from '#shared/api/certificates'
import type { OwnCertificateFacts } from '#shared/certificates'

/** The certificate by which others know this application. */
export const useOwnCertificate = () => {
  const own = shallowRef<OwnCertificateFacts | null>(null)
  const problem = shallowRef<Refused | null>(null)
  const load = async () => {
    try {
      own.value = await callApi(showOwnCertificate)
      problem.value = null
    } catch (error) {
      problem.value = asRefused(error)
    }
  }
  void load()
  return { own, problem, load }
}

/** Saves our certificate as a file, in either of the forms that others take. */
export const saveCertificate = (pem: string, form: 'der' | 'pem') => {
  const content = form === 'pem' ? pem : Uint8Array.from(atob(pem.replace(/-----[^-]+-----|\s/g, '')), (letter) => letter.charCodeAt(0))
  const type = form === 'pem' ? 'application/x-pem-file' : 'application/pkix-cert'
  const url = URL.createObjectURL(new Blob([content], { type }))
  Object.assign(document.createElement('a'), { href: url, download: `keen-conduit.${form}` }).click()
  URL.revokeObjectURL(url)
}
