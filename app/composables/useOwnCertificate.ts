import type { OwnCertificateFacts } from '#shared/rpc'

/** The certificate by which others know this application. */
export const useOwnCertificate = () => {
  const own = shallowRef<OwnCertificateFacts | null>(null)
  const problem = shallowRef<Refused | null>(null)
  const load = async () => {
    try {
      own.value = await callApi<OwnCertificateFacts>('/certificates/own')
      problem.value = null
    } catch (error) {
      problem.value = asRefused(error)
    }
  }
  void load()
  return { own, problem, load }
}
