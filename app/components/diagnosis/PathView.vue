<script setup lang="ts">
import { bridgeChecks, walkBridge } from '#shared/api/bridges'
import { linkChecks, walkLink } from '#shared/api/links'
import { addressOf } from '#shared/api/operation'
import { checkOutlet, outletChecks } from '#shared/api/outlets'
import { handoverPack } from '#shared/api/site'
import { tagChecks, walkTag } from '#shared/api/tags'
import type { PathKind, PathRecord } from '#shared/diagnosis'
import type { Flow } from '#shared/flow'

/** The way of a thing, step by step, what a stop on it means, and the checks before. */
const props = defineProps<{
  of: PathKind
  id: number
  /** How it is now, and in words; null: not known. */
  flow: Flow | null
  sentence: string
  /** From the list to the thing itself. */
  trail: { to: string; text: string }[]
}>()

/** How each kind of path is walked; of an outlet all its entries. */
const operations = {
  link: { walk: walkLink, checks: linkChecks, more: {} },
  outlet: { walk: checkOutlet, checks: outletChecks, more: { body: { entry: null } } },
  bridge: { walk: walkBridge, checks: bridgeChecks, more: {} },
  tag: { walk: walkTag, checks: tagChecks, more: {} },
}
const { walk: walking, checks, more } = operations[props.of]
const session = useSession()
const check = useCheck(walking as typeof walkLink)
const records = ref<PathRecord[]>([])
const refused = shallowRef<Refused | null>(null)
/** A check of before that is looked at; null: the one that was made here. */
const past = ref<number | null>(null)

const load = async () => {
  try {
    records.value = await callApi(checks as typeof linkChecks, { params: { id: props.id } })
    refused.value = null
  } catch (error) {
    refused.value = asRefused(error)
  }
}
const walk = async () => {
  past.value = null
  await check.run({ params: { id: props.id }, ...(more as object) })
  await load()
}
await load()
// whoever comes because something is broken sees what was found when it broke, until it is walked again
const newest = records.value[0]
if (newest && props.flow !== 'flowing' && props.of !== 'tag') past.value = newest.n
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
  () => props.flow,
  (flow, before) => flow === 'flowing' && before !== undefined && stopsAt.value !== null && session.can('operate') && walk(),
)
</script>

<template>
  <div class="page">
    <div class="page-head">
      <NuxtLink v-for="place in trail" :key="place.to" :to="place.to" class="trail">{{ place.text }} ›</NuxtLink>
      <h1>Path check</h1>
      <PipeGlyph v-if="flow" :flow="flow" :width="58" />
      <span v-if="stopsAt" class="is-broken">stops at {{ of === 'link' || of === 'outlet' ? stopsAt.toLowerCase() : stopsAt }}</span>
      <span v-else-if="flow" :class="`is-${flow}`">{{ sentence }}</span>
      <span class="fill" />
      <span class="head-buttons">
        <slot name="buttons" />
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
        <CheckHistory :records="records" :shown="past" :of="of" @show="past = $event" />
      </div>
      <div>
        <TrustQuestion
          v-if="question"
          :key="question.facts.fingerprint"
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
            <slot name="side" :steps="steps" :running="check.running.value" />
          </template>
        </CausePanel>
        <slot v-else name="side" :steps="steps" :running="check.running.value" />
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
.path-columns > div {
  display: grid;
  gap: 12px;
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
