<script setup lang="ts">
import { showOutlet } from '#shared/api/outlets'
import { dayText } from '#core/text/moment'
import { cardOf, cardText } from '#shared/outlets/card'
import type { Outlet } from '#shared/outlets/outlet'

/** What whoever sets up the consumer's side needs, to copy or to print. */
const id = Number(useRoute().params.id)
const live = useLive()
const { copied, copy } = useCopy()
const refused = ref<Refused | null>(null)
const outlet = shallowRef<Outlet | null>(null)
const { own } = useOwnCertificate()
try {
  outlet.value = await callApi(showOutlet, { params: { id } })
} catch (error) {
  refused.value = asRefused(error)
}
const status = computed(() => live.status?.outlets.find((known) => known.id === id) ?? null)
const sections = computed(() =>
  outlet.value ? cardOf(outlet.value, { addresses: status.value?.addresses ?? [], own: own.value?.facts ?? null }) : [],
)
const title = computed(() => `${outlet.value?.name ?? ''}: connecting to it`)
const text = computed(() => cardText(title.value, sections.value))
const made = dayText(Date.now())
const print = () => window.print()
</script>

<template>
  <div class="page">
    <div class="page-head">
      <NuxtLink :to="`/outlets/${id}`" class="trail">{{ outlet?.name ?? 'Outlet' }} ›</NuxtLink>
      <h1>Card for the consumer’s side</h1>
      <span class="fill" />
      <template v-if="outlet">
        <v-btn v-if="own" @click="saveCertificate(own.pem, 'der')">Save our certificate, DER</v-btn>
        <v-btn @click="copy(text)">{{ copied === text ? 'Copied' : 'Copy as text' }}</v-btn>
        <v-btn variant="flat" @click="print">Print</v-btn>
      </template>
    </div>
    <FaultNote v-if="refused" :fault="refused.why" />
    <article v-if="outlet" class="sheet card">
      <header>
        <h2>{{ title }}</h2>
        <span class="quiet">{{ made }}</span>
      </header>
      <section v-for="section in sections" :key="section.title">
        <h3 class="sheet-title">{{ section.title }}</h3>
        <dl>
          <template v-for="row in section.rows" :key="row.label">
            <dt>{{ row.label }}</dt>
            <dd class="mono">{{ row.text }}</dd>
          </template>
        </dl>
        <ol v-if="section.steps.length">
          <li v-for="step in section.steps" :key="step">{{ step }}</li>
        </ol>
      </section>
    </article>
  </div>
</template>

<style scoped>
.card {
  max-width: 900px;
  padding: 22px 28px 26px;
}
header {
  display: flex;
  justify-content: space-between;
  align-items: baseline;
  border-bottom: 2px solid var(--primary);
  padding-bottom: 8px;
}
h2 {
  font-size: 17px;
  font-weight: 600;
  margin: 0;
}
section {
  margin-top: 16px;
  break-inside: avoid;
}
dl {
  display: grid;
  grid-template-columns: 130px 1fr;
  gap: 3px 14px;
  margin: 6px 0 0;
}
dt {
  color: var(--quiet);
}
dd {
  margin: 0;
  overflow-wrap: anywhere;
}
ol {
  margin: 8px 0 0;
  padding-left: 20px;
}
</style>
