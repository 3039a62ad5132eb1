<script setup lang="ts">
import { applyModel, readModel, showModelPlan } from '#shared/api/outlets'
import { counted } from '#core/text/counted'
import { ageText } from '#core/text/duration'
import type { CloudPlatformDetails, ModelPlan } from '#shared/outlets/cloudPlatformStatus'

/** The model over there beside the one here: what is to be done, and doing it. */
const props = defineProps<{ outletId: number; model: CloudPlatformDetails['model'] }>()
const live = useLive()
const session = useSession()
const plan = shallowRef<ModelPlan | null>(null)
const { busy, refused, attempt } = useAttempt()
const removing = ref(false)
const params = { id: props.outletId }

const show = () => callApi(showModelPlan, { params }).then((found) => (plan.value = found))
const readAgain = () => attempt(async () => void (plan.value = await callApi(readModel, { params })))
const carryOut = () =>
  attempt(async () => {
    const { digest } = plan.value!
    try {
      plan.value = await callApi(applyModel, { params, body: { digest, removing: removing.value } })
      removing.value = false
    } catch (error) {
      await show().catch(() => {})
      throw error
    }
  })
/** The strip tells that something became different; what it is, the plan tells. */
watch(
  () => JSON.stringify(props.model),
  () => {
    if (!busy.value) show().catch((error: unknown) => (refused.value = asRefused(error)))
  },
  { immediate: true },
)

const now = computed(() => live.status?.now ?? 0)
const doable = computed(() => {
  const { stepCount, removals, hindered } = plan.value ?? { stepCount: 0, removals: 0, hindered: 0 }
  return Math.max(0, stepCount - hindered - (removing.value ? 0 : removals))
})
const howText = { make: 'made', match: 'taken for ours', change: 'changed', remove: 'removed' }
const states = {
  off: 'It is not sent.',
  'not read': 'Not read yet.',
  alike: 'As it is here.',
  differs: 'Otherwise than here:',
  'being changed': 'Is being changed …',
}
</script>

<template>
  <section class="sheet part">
    <div class="head">
      <h2 class="sheet-title">Model over there</h2>
      <span v-if="plan" class="quiet">
        {{ counted(plan.there.classes, 'class', 'classes') }}, {{ counted(plan.there.equipment, 'piece') }} there;
        {{ counted(plan.here.classes, 'class', 'classes') }}, {{ counted(plan.here.equipment, 'piece') }} here<template v-if="plan.readAt">
          · read {{ ageText(now - plan.readAt) }}</template
        >
      </span>
      <span class="fill" />
      <v-btn v-if="session.can('operate')" height="26" :disabled="busy" @click="readAgain">Read again</v-btn>
    </div>
    <FaultNote v-if="refused" :fault="refused.why" />
    <template v-if="plan">
      <p :class="{ 'is-late': plan.state === 'differs', quiet: plan.state !== 'differs' }">{{ states[plan.state] }}</p>
      <div v-if="plan.steps.length" class="scroll" tabindex="0" aria-label="What is to be done there">
        <table class="rows">
          <thead>
            <tr>
              <th>What</th>
              <th>Is to be</th>
              <th>Why</th>
            </tr>
          </thead>
          <tbody>
            <tr v-for="(step, i) in plan.steps" :key="i" :class="{ pale: step.how === 'remove' && !removing }">
              <td class="wrap">
                <span class="quiet">{{ step.what }}</span> {{ step.name }}
              </td>
              <td>{{ step.problem ? 'left as it is' : howText[step.how] }}</td>
              <td class="wrap">
                <span v-if="step.problem" class="is-broken">{{ step.problem }}</span>
                <template v-else-if="step.how === 'remove'">no longer here</template>
                <template v-else-if="step.how === 'make'">not there yet</template>
                <template v-else>{{ step.differences.slice(0, 4).join('; ') || 'there by its name' }}</template>
                <span v-if="step.differences.length > 4" class="quiet"> and {{ step.differences.length - 4 }} more</span>
              </td>
            </tr>
          </tbody>
        </table>
        <p v-if="plan.stepCount > plan.steps.length" class="quiet">
          and {{ (plan.stepCount - plan.steps.length).toLocaleString('en-GB') }} more
        </p>
      </div>
      <div v-if="plan.refused.length" class="refused">
        <p class="is-broken">It refused {{ counted(plan.refused.length, 'step') }} of the last change:</p>
        <p v-for="one in plan.refused.slice(0, 8)" :key="one.name" class="small">
          {{ one.name }} <span class="quiet">{{ one.why }}</span>
        </p>
      </div>
      <div v-if="plan.stepCount && session.can('configure')" class="doing">
        <BusyButton variant="flat" :busy="busy" :disabled="doable === 0" @click="carryOut"
          >Carry out {{ counted(doable, 'step') }}</BusyButton
        >
        <v-checkbox v-if="plan.removals" v-model="removing" :label="`also remove ${counted(plan.removals, 'thing')} there`" />
      </div>
    </template>
  </section>
</template>

<style scoped>
.part {
  padding: 12px 14px;
}
.head {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 4px 12px;
}
.fill {
  flex: 1;
}
.scroll {
  max-height: 340px;
  overflow: auto;
  margin-top: 6px;
}
.scroll:focus-visible {
  outline: 2px solid var(--copper);
}
.wrap {
  overflow-wrap: anywhere;
}
.pale {
  opacity: 0.6;
}
.doing {
  display: flex;
  align-items: center;
  gap: 16px;
  margin-top: 10px;
}
.small {
  font-size: 12px;
}
p {
  margin: 8px 0 0;
}
</style>
