<script setup lang="ts">
import { dayText } from '#core/text/moment'
import { fingerprintText } from '#core/certificates/judge'
import type { ShownCertificate } from '#shared/certificates'

/** The one question about a certificate that a person has to decide. */
const props = defineProps<{ certificate: ShownCertificate; title: string; refused?: boolean }>()
const emit = defineEmits<{ decided: [] }>()
const session = useSession()
const reading = ref(false)
const { copied, copy } = useCopy()

const facts = computed(() => props.certificate.facts)
const { busy, problem, hopeless, decide } = useDecision(
  () => props.certificate,
  () => emit('decided'),
)
</script>

<template>
  <section class="sheet question" role="group" :aria-label="title">
    <h2 class="sheet-title">{{ title }}</h2>
    <dl>
      <dt>Says it is</dt>
      <dd>{{ facts.name }}</dd>
      <dt>Issued by</dt>
      <dd>{{ facts.selfSigned ? 'itself' : facts.issuer }}</dd>
      <dt>Valid</dt>
      <dd>{{ dayText(facts.validFrom) }} to {{ dayText(facts.validTo) }}</dd>
      <dt>For host</dt>
      <dd>{{ facts.hosts.join(', ') || 'none named' }}</dd>
      <dt>Fingerprint</dt>
      <dd class="mono">{{ fingerprintText(facts.fingerprintSha1) }}</dd>
      <template v-if="reading">
        <dt>SHA-256</dt>
        <dd class="mono">{{ fingerprintText(facts.fingerprint) }}</dd>
        <dt>Subject</dt>
        <dd>{{ facts.subject }}</dd>
        <dt>Application</dt>
        <dd class="mono">{{ facts.applicationUri ?? 'none named' }}</dd>
        <dt>Key</dt>
        <dd>{{ facts.keyBits ? `${facts.keyBits} bits` : 'not RSA' }}</dd>
      </template>
    </dl>
    <ul v-if="certificate.problems.length" class="problems">
      <li v-for="found in certificate.problems" :key="found.kind">{{ found.text }}</li>
    </ul>
    <p class="quiet">
      {{ hopeless ? 'It cannot be trusted as it is.' : 'Compare the fingerprint with the one on its own panel or in its documents.' }}
    </p>
    <div class="buttons">
      <BusyButton v-if="!hopeless && session.can('configure')" variant="flat" :busy="busy" @click="decide('trusted')">{{
        certificate.problems.length ? 'Trust it nevertheless' : 'Trust it'
      }}</BusyButton>
      <v-btn v-if="!refused && session.can('configure')" :disabled="busy" @click="decide('refused')">Refuse</v-btn>
      <v-btn @click="reading = !reading">{{ reading ? 'Read less' : 'Read the certificate' }}</v-btn>
      <v-btn v-if="reading" @click="copy(facts.fingerprint)">{{ copied === facts.fingerprint ? 'Copied' : 'Copy SHA-256' }}</v-btn>
    </div>
    <FaultNote v-if="problem" :fault="problem.why" />
  </section>
</template>

<style scoped>
.question {
  padding: 14px 18px;
  border-left: 4px solid var(--copper);
}
dl {
  display: grid;
  grid-template-columns: 84px 1fr;
  gap: 4px 8px;
  margin: 8px 0;
}
dt {
  color: var(--quiet);
}
dd {
  margin: 0;
  overflow-wrap: anywhere;
}
.problems {
  margin: 0 0 8px;
  padding-left: 18px;
  color: var(--copper);
}
p {
  margin: 0 0 10px;
}
.buttons {
  display: flex;
  flex-wrap: wrap;
  gap: 8px;
}
</style>
