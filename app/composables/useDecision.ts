import { decideCertificate } from '#shared/api/certificates'
import { isAcceptable } from '#core/certificates/judge'
import type { ShownCertificate } from '#shared/certificates'

/** Deciding about a certificate: what speaks against it is accepted with it, where that is possible at all. */
export const useDecision = (certificate: () => ShownCertificate, decided: () => void = () => {}) => {
  const busy = ref(false)
  const problem = shallowRef<Refused | null>(null)
  const hopeless = computed(() => certificate().problems.some((found) => !isAcceptable(found)))

  const decide = async (verdict: 'trusted' | 'refused') => {
    const { der, problems } = certificate()
    busy.value = true
    problem.value = null
    try {
      await callApi(decideCertificate, { body: { der, verdict, despite: problems.map(({ kind }) => kind) } })
      decided()
    } catch (error) {
      problem.value = asRefused(error)
    } finally {
      busy.value = false
    }
  }
  return { busy, problem, hopeless, decide }
}
