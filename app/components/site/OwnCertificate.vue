<script setup lang="ts">
import { changeOwnCertificate, renewOwnCertificate } from '#shared/api/certificates'
import { dayText } from '#core/text/moment'
import { fingerprintText } from '#core/certificates/judge'
import type { OwnCertificateFacts } from '#shared/certificates'

/** How others see this application, and the way to another certificate. */
const { own, problem, load } = useOwnCertificate()
const notices = useNotices()
const { copied, copy } = useCopy()
const replacing = ref(false)
const renewing = ref(false)
const busy = ref(false)
const pair = reactive({ certificate: '', key: '' })
const refused = shallowRef<Refused | null>(null)

const change = async (work: () => Promise<OwnCertificateFacts>, told: string) => {
  busy.value = true
  refused.value = null
  try {
    await work()
    await load()
    Object.assign(pair, { certificate: '', key: '' })
    replacing.value = false
    notices.tell(told)
  } catch (error) {
    refused.value = asRefused(error)
  } finally {
    busy.value = false
    renewing.value = false
  }
}
const replace = () =>
  change(() => callApi(changeOwnCertificate, { body: pair }), 'Our certificate is another one now; others have to trust it.')
const renew = () => change(() => callApi(renewOwnCertificate), 'A new certificate was made; others have to trust it.')
</script>

<template>
  <section class="sheet part">
    <h2 class="sheet-title">Our certificate <span class="quiet light">by which servers and clients know us</span></h2>
    <FaultNote v-if="problem" :fault="problem.why" />
    <template v-if="own">
      <dl>
        <dt>Name</dt>
        <dd>{{ own.facts.name }}</dd>
        <dt>Application</dt>
        <dd class="mono">{{ own.facts.applicationUri }}</dd>
        <dt>For hosts</dt>
        <dd>{{ own.facts.hosts.join(', ') }}</dd>
        <dt>Issued by</dt>
        <dd>{{ own.facts.selfSigned ? 'itself' : own.facts.issuer }}</dd>
        <dt>Valid</dt>
        <dd>{{ dayText(own.facts.validFrom) }} to {{ dayText(own.facts.validTo) }}</dd>
        <dt>Key</dt>
        <dd>{{ own.facts.keyBits }} bits</dd>
        <dt>SHA-1</dt>
        <dd class="mono">
          {{ fingerprintText(own.facts.fingerprintSha1) }}
          <button type="button" class="link" @click="copy(own.facts.fingerprintSha1)">
            {{ copied === own.facts.fingerprintSha1 ? 'copied' : 'copy' }}
          </button>
        </dd>
        <dt>SHA-256</dt>
        <dd class="mono">{{ fingerprintText(own.facts.fingerprint) }}</dd>
      </dl>
      <div class="buttons">
        <v-btn @click="saveCertificate(own.pem, 'der')">Save as DER</v-btn>
        <v-btn @click="saveCertificate(own.pem, 'pem')">Save as PEM</v-btn>
        <Allowed role="administer">
          <v-btn @click="replacing = !replacing">Use another…</v-btn>
          <v-btn @click="renewing = true">Make a new one…</v-btn>
        </Allowed>
      </div>
    </template>
    <form v-if="replacing" class="replace" @submit.prevent="replace">
      <div>
        <label class="label" for="own-certificate">Certificate, PEM</label>
        <v-textarea id="own-certificate" v-model="pair.certificate" rows="4" class="mono" />
      </div>
      <div>
        <label class="label" for="own-key">Its private key, PEM</label>
        <v-textarea id="own-key" v-model="pair.key" rows="4" class="mono" />
      </div>
      <BusyButton type="submit" variant="flat" :busy="busy" :disabled="!pair.certificate.trim() || !pair.key.trim()"
        >Use this one</BusyButton
      >
    </form>
    <FaultNote v-if="refused" :fault="refused.why" class="below" />
    <AskDialog v-model="renewing" title="Make a new certificate?" yes="Make a new one" no="Keep" @yes="renew">
      <p>Whoever trusts the present one has to trust the new one before a secured connection works again.</p>
    </AskDialog>
  </section>
</template>

<style scoped>
.part {
  padding: 12px 16px;
}
.light {
  font-weight: 400;
}
dl {
  display: grid;
  grid-template-columns: 90px 1fr;
  gap: 4px 8px;
  margin: 10px 0;
}
dt {
  color: var(--quiet);
}
dd {
  margin: 0;
  overflow-wrap: anywhere;
}
.buttons {
  display: flex;
  flex-wrap: wrap;
  gap: 8px;
}
.replace {
  display: grid;
  gap: 10px;
  justify-items: start;
  margin-top: 12px;
}
.replace > div {
  width: 100%;
}
.link {
  color: var(--primary);
  text-decoration: underline;
  font-family: 'IBM Plex Sans', sans-serif;
}
.below {
  margin-top: 12px;
}
</style>
