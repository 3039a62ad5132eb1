<script setup lang="ts">
import { linkChecks, walkLink } from '#shared/api/links'
import { addressOf } from '#shared/api/operation'
import { handoverPack } from '#shared/api/site'
import { protocolOf } from '#core/links/registry'
import { placeOf } from '#shared/links/link'
import type { PathRecord } from '#shared/diagnosis'

/** The way to the far side of one link, step by step, and what a stop on it means. */
const id = Number(useRoute().params.id)
const lists = useLists()
const live = useLive()
const session = useSession()
await lists.whenLoaded()
const link = computed(() => lists.links.find((one) => one.id === id) ?? null)
const status = computed(() => live.status?.links.find((one) => one.id === id) ?? null)
const outlets = computed(() => (live.status?.outlets ?? []).filter(({ feeds }) => feeds.links.includes(id)))
const outletName = (outlet: number) => lists.outlets.find((one) => one.id === outlet)?.name ?? 'Outlet'

const check = useCheck(walkLink)
const records = ref<PathRecord[]>([])
const refused = shallowRef<Refused | null>(null)
/** A check of before that is looked at; null: the one that was made here. */
const past = ref<number | null>(null)

const load = async () => {
  try {
    records.value = await callApi(linkChecks, { params: { id } })
    refused.value = null
  } catch (error) {
    refused.value = asRefused(error)
  }
}
const walk = async () => {
  past.value = null
  await check.run({ params: { id } })
  await load()
}
await load()
// whoever comes because something is broken sees what was found when it broke, until it is walked again
const newest = records.value[0]
if (newest && status.value?.flow !== 'flowing') past.value = newest.n
onMounted(() => past.value === null && session.can('operate') && walk())
// one that is made by itself meanwhile
useRepeated(async () => {
  if (!check.running.value) await load()
}, 5000)

const record = computed(() => records.value.find(({ n }) => n === past.value) ?? null)
const steps = computed(() => record.value?.steps ?? check.steps.value)
const verdict = computed(() => (record.value ? record.value.verdict : check.verdict.value))
const stop = computed(() => steps.value.find(({ fault }) => fault !== null) ?? null)
const stopsAt = computed(() => stop.value?.title ?? null)
/** A certificate that a person has to decide about. */
const question = computed(() => (session.can('configure') ? (stop.value?.certificate ?? null) : null))
const isSound = computed(() => !check.running.value && steps.value.length > 0 && stopsAt.value === null)
// what is shown of a stop is of before, once it works again
watch(
  () => status.value?.flow,
  (flow, before) => flow === 'flowing' && before !== undefined && stopsAt.value !== null && session.can('operate') && walk(),
)
</script>

<template>
  <div class="page">
    <div class="page-head">
      <NuxtLink to="/links" class="trail">Links ›</NuxtLink>
      <NuxtLink :to="`/links/${id}`" class="trail">{{ link?.name ?? 'Link' }} ›</NuxtLink>
      <h1>Path check</h1>
      <PipeGlyph v-if="status" :flow="status.flow" :width="58" />
      <span v-if="stopsAt" class="is-broken">stops at {{ stopsAt.toLowerCase() }}</span>
      <span v-else-if="status" :class="`is-${status.flow}`">{{ status.sentence }}</span>
      <span class="fill" />
      <span class="head-buttons">
        <v-btn :to="`/links/${id}`">{{ session.can('configure') ? 'Edit the link' : 'The link' }}</v-btn>
        <v-btn v-if="link && protocolOf(link.kind).capabilities.tap && session.can('configure')" :to="`/links/${id}/traffic`"
          >Traffic</v-btn
        >
        <v-btn v-if="check.running.value" @click="check.stop">Stop</v-btn>
        <v-btn v-else-if="session.can('operate')" variant="flat" @click="walk">Walk the path again</v-btn>
      </span>
    </div>
    <FaultNote v-if="refused" :fault="refused.why" class="gap" />
    <FaultNote v-if="check.problem.value" :fault="check.problem.value.why" class="gap" />
    <div class="path-columns">
      <div>
        <section class="sheet">
          <p v-if="steps.length === 0" class="quiet empty">
            {{ check.running.value ? 'Begins' : 'Nothing was walked yet. Press “Walk the path again”.' }}
          </p>
          <PathWaterfall v-else :steps="steps" />
          <p v-if="isSound" class="verdict">Every step is sound.</p>
          <p v-if="stopsAt && check.running.value && !verdict" class="quiet empty" role="status">
            Looking further: route, echo, firewall …
          </p>
        </section>
        <LookedTable v-if="verdict?.looked.length" :looked="verdict.looked" />
        <ExchangePanel v-if="verdict?.exchange" :exchange="verdict.exchange" />
        <CheckHistory :records="records" :shown="past" @show="past = $event" />
      </div>
      <div>
        <TrustQuestion
          v-if="question"
          :key="question.facts.fingerprint"
          class="gap"
          title="Do you know this server?"
          :certificate="question"
          :refused="stop?.fault?.code === 'certificate.refused'"
          @decided="walk"
        />
        <CausePanel v-if="verdict" :verdict="verdict">
          <v-btn v-if="session.can('configure')" :href="`/api${addressOf(handoverPack, {})}`" download
            >Handover pack for whoever helps</v-btn
          >
          <template #next>
            <WhoseSide v-if="status && link" :far="placeOf(link)" :link="status" :outlets="outlets" :name-of="outletName" />
          </template>
        </CausePanel>
        <WhoseSide v-else-if="status && link" :far="placeOf(link)" :link="status" :outlets="outlets" :name-of="outletName" />
      </div>
    </div>
  </div>
</template>

<style scoped>
.path-columns {
  display: grid;
  grid-template-columns: minmax(0, 1.46fr) minmax(0, 1fr);
  gap: 16px;
  align-items: start;
}
@media (max-width: 1000px) {
  .path-columns {
    grid-template-columns: 1fr;
  }
}
.empty,
.verdict {
  padding: 10px 16px;
  margin: 0;
}
.verdict {
  color: var(--flow);
  font-weight: 500;
}
.gap {
  margin-bottom: 12px;
}
</style>
