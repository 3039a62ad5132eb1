<script setup lang="ts">
import { fingerprintText } from '#core/certificates/judge'
import { readPairingText } from '#core/pairing/code'
import { pairByCode } from '#shared/api/relays'
import { redeemed, type Relay } from '#shared/pairing'

/** Pairs by the code of another copy: what it says, what is wished here, and each step as it happens. */
const props = defineProps<{ again: Relay | null }>()
const emit = defineEmits<{ paired: [] }>()
const blank = {
  code: '',
  take: { name: '', folder: '', again: null as number | null },
  give: { name: '', folder: '', may: 'read' as 'read' | 'write', onRequest: true, again: null as number | null },
}
const { draft, isValid, messageFor, touch, triedToSave } = useDraft(blank, redeemed)
watch(
  () => props.again,
  (again) => {
    draft.value.take.again = again?.of === 'link' ? again.id : null
    draft.value.give.again = again?.of === 'outlet' ? again.id : null
  },
  { immediate: true },
)

const read = computed(() => readPairingText(draft.value.code))
const code = computed(() => (read.value.ok ? read.value.code : null))
const message = computed(() => (read.value.ok || draft.value.code.trim() === '' ? messageFor('code') : read.value.problem))

const { steps, running, failed, problem, run, stop } = useCheck(pairByCode)
const made = computed(() => steps.value.find(({ about, flow }) => about && flow === 'flowing')?.about ?? null)
const pair = async () => {
  triedToSave.value = true
  if (!isValid.value || !code.value) return
  await run({ body: draft.value })
  if (made.value) emit('paired')
}
const wayOut = computed(() => (made.value ? `/${made.value.subject}s/${made.value.id}` : ''))
</script>

<template>
  <form class="sheet part" @submit.prevent="pair">
    <h2 class="sheet-title">Use a code <span class="quiet light">that the other copy shows; we dial it</span></h2>
    <p v-if="again">For {{ again.of }} “{{ again.name }}”, which is paired with “{{ again.partner }}”.</p>
    <TextField
      v-model="draft.code"
      label="Code of the other copy"
      mono
      placeholder="10.20.0.5:4843/AB12-CD34-…"
      :message="message"
      @left="touch('code')"
    />
    <template v-if="code">
      <p>
        Leads to <strong class="mono">{{ code.host }}:{{ code.port }}</strong
        >, to the copy whose fingerprint begins with <span class="mono">{{ fingerprintText(code.fingerprint) }}</span>.
        {{ code.purpose === 'to-maker' ? 'Our values go there.' : 'Its values come here.' }}
      </p>
      <div class="grid">
        <GiveFields
          v-if="code.purpose === 'to-maker'"
          v-model="draft.give"
          theirs="as the other site is called"
          :message="(path: string) => messageFor(`give.${path}`)"
          @left="touch(`give.${$event}`)"
        />
        <TakeFields
          v-else
          v-model="draft.take"
          theirs="as the other site is called"
          :message="(path: string) => messageFor(`take.${path}`)"
          @left="touch(`take.${$event}`)"
        />
      </div>
    </template>
    <div class="foot">
      <BusyButton type="submit" variant="flat" :busy="running" :disabled="!code">Pair</BusyButton>
      <v-btn v-if="running" height="30" @click="stop">Stop</v-btn>
    </div>
    <div v-if="steps.length > 0" class="steps" aria-live="polite"><CheckSteps :steps="steps" /></div>
    <FaultNote v-if="failed?.fault ?? problem?.why" :fault="(failed?.fault ?? problem?.why)!" class="gap" />
    <p v-if="made" class="is-flowing">
      Paired. <NuxtLink :to="wayOut" class="link">Open the {{ made.subject }}</NuxtLink>
    </p>
  </form>
</template>

<style scoped>
.part {
  padding: 12px 16px;
}
.light {
  font-weight: 400;
}
.grid {
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(220px, 1fr));
  gap: 10px 14px;
  align-items: start;
}
.foot {
  display: flex;
  gap: 10px;
  margin-top: 12px;
}
.steps {
  margin: 10px -16px 0;
}
.gap {
  margin-top: 10px;
}
p {
  margin: 6px 0;
}
</style>
