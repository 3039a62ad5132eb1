<script setup lang="ts">
import { checkOutlet } from '#shared/api/outlets'

/** From the name of the platform to its answer, step by step. */
const props = defineProps<{ outletId: number; isOpen: boolean }>()
const check = useCheck(checkOutlet)
const session = useSession()
const run = () => check.run({ params: { id: props.outletId }, body: { entry: 0 } })
</script>

<template>
  <section class="sheet part">
    <div class="head">
      <h2 class="sheet-title">The way there</h2>
      <span class="fill" />
      <v-btn v-if="check.running.value" height="26" @click="check.stop">Stop</v-btn>
      <v-btn v-else-if="session.can('operate')" height="26" :disabled="!isOpen" @click="run">Walk it now</v-btn>
    </div>
    <p v-if="!check.steps.value.length" class="quiet">Name, port, whether it lets us in, and its clock. Nothing is changed there.</p>
    <CheckSteps v-else :steps="check.steps.value" />
    <FaultNote v-if="check.failed.value?.fault" :fault="check.failed.value.fault" class="gap" />
    <FaultNote v-if="check.problem.value" :fault="check.problem.value.why" class="gap" />
  </section>
</template>

<style scoped>
.part {
  padding: 12px 14px;
}
.head {
  display: flex;
  align-items: center;
  gap: 12px;
}
.fill {
  flex: 1;
}
p {
  margin: 8px 0 0;
}
.gap {
  margin-top: 10px;
}
</style>
