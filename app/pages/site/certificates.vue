<script setup lang="ts">
import { decideCertificate, forgetCertificate, listCertificates } from '#shared/api/certificates'
import { listWhole } from '#shared/api/lists'
import { dayText, momentText } from '#core/text/moment'
import { fingerprintText } from '#core/certificates/judge'
import type { ListedCertificate, ShownCertificate } from '#shared/certificates'

const live = useLive()
const session = useSession()
const notices = useNotices()
const known = shallowRef<ListedCertificate[] | null>(null)
const refused = shallowRef<Refused | null>(null)
const asking = shallowRef<ListedCertificate | null>(null)

const load = async () => {
  try {
    known.value = (await callApi(listCertificates, { query: { limit: listWhole } })).items
    refused.value = null
  } catch (error) {
    refused.value = asRefused(error)
  }
}
watch(() => live.changes, load, { immediate: true })

/** Certificates that links have met and that nobody decided about. */
const waiting = computed(() => {
  const found = new Map<string, ShownCertificate & { of: string[] }>()
  for (const link of live.status?.links ?? []) {
    const { certificate } = link
    if (!certificate || link.fault?.code === 'certificate.refused') continue
    const entry = found.get(certificate.facts.fingerprint) ?? { ...certificate, of: [] }
    entry.of.push(nameOf(link.id))
    found.set(certificate.facts.fingerprint, entry)
  }
  return [...found.values()]
})
const lists = useLists()
const nameOf = (id: number) => lists.linkName(id)

const decide = async (certificate: ListedCertificate, verdict: 'trusted' | 'refused') => {
  try {
    await callApi(decideCertificate, { body: { der: certificate.der, verdict, despite: certificate.despite } })
    notices.tell(`The certificate of “${certificate.name}” is ${verdict} now.`)
  } catch (error) {
    notices.tellProblem(asRefused(error).why.what)
  }
}
const forget = async () => {
  const certificate = asking.value
  asking.value = null
  if (!certificate) return
  try {
    const { revision } = await callApi(forgetCertificate, { params: { id: certificate.id } })
    notices.tell(`The certificate of “${certificate.name}” is forgotten.`, revision)
  } catch (error) {
    notices.tellProblem(asRefused(error).why.what)
  }
}
const isAsking = computed({ get: () => asking.value !== null, set: (open) => open || (asking.value = null) })
</script>

<template>
  <div class="page">
    <SiteHead />
    <div class="sheet-columns">
      <div class="stack">
        <section class="sheet part">
          <h2 class="sheet-title">Decided <span class="quiet light">whom this site trusts, and whom it refuses</span></h2>
          <FaultNote v-if="refused" :fault="refused.why" />
          <table v-if="known?.length" class="rows">
            <thead>
              <tr>
                <th>Name</th>
                <th>Verdict</th>
                <th>Fingerprint</th>
                <th>Valid until</th>
                <th>Decided</th>
                <th><span class="d-sr-only">Actions</span></th>
              </tr>
            </thead>
            <tbody>
              <tr v-for="certificate in known" :key="certificate.id">
                <td>
                  <strong>{{ certificate.name }}</strong>
                  <small v-if="certificate.facts.isAuthority" class="quiet"> and all it issued</small>
                </td>
                <td :class="certificate.verdict === 'refused' ? 'is-broken' : 'is-flowing'">{{ certificate.verdict }}</td>
                <td class="mono quiet" :title="fingerprintText(certificate.facts.fingerprintSha1)">
                  {{ fingerprintText(certificate.facts.fingerprintSha1).slice(0, 25) }}…
                </td>
                <td :class="{ 'is-broken': certificate.facts.validTo < Date.now() }">{{ dayText(certificate.facts.validTo) }}</td>
                <td class="quiet">{{ certificate.who }}, {{ momentText(certificate.at) }}</td>
                <td>
                  <div v-if="session.can('configure')" class="actions">
                    <v-btn v-if="certificate.verdict === 'refused'" height="24" @click="decide(certificate, 'trusted')">Trust</v-btn>
                    <v-btn v-else height="24" @click="decide(certificate, 'refused')">Refuse</v-btn>
                    <v-btn height="24" @click="asking = certificate">Forget…</v-btn>
                  </div>
                </td>
              </tr>
            </tbody>
          </table>
          <p v-else-if="known" class="quiet">
            Nobody yet. When a link meets a server that nobody here decided about, it waits and asks; the answer is kept here.
          </p>
        </section>
      </div>
      <div class="stack">
        <TrustQuestion
          v-for="certificate in waiting"
          :key="certificate.facts.fingerprint"
          :certificate="certificate"
          :title="`Do you know this server? Waiting: ${certificate.of.join(', ')}`"
        />
        <OwnCertificate id="own" />
      </div>
    </div>
    <AskDialog v-model="isAsking" :title="`Forget the certificate of “${asking?.name}”?`" yes="Forget it" no="Keep" grave @yes="forget">
      <p>Whoever shows it is a stranger again: links to it stop and ask.</p>
    </AskDialog>
  </div>
</template>

<style scoped>
.stack {
  display: grid;
  gap: 14px;
}
.part {
  padding: 12px 16px;
}
.light {
  font-weight: 400;
}
strong {
  font-weight: 600;
}
.actions {
  display: flex;
  gap: 6px;
  justify-content: flex-end;
}
</style>
