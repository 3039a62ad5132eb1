<script setup lang="ts">
import { dayText } from '#core/text/moment'
import { fingerprintText } from '#core/certificates/judge'
import { ageText } from '#core/text/duration'
import type { Knock } from '#shared/outlets/opcuaServerStatus'

/** Somebody at the door: let in or refuse, in one press. */
const props = defineProps<{ knock: Knock; now: number }>()
const session = useSession()
const { busy, problem, hopeless, decide } = useDecision(() => props.knock)
</script>

<template>
  <section class="knock">
    <strong>{{ knock.facts.name }}</strong>
    <p class="quiet">
      {{ knock.from || 'from somewhere' }} · {{ knock.tries }} {{ knock.tries === 1 ? 'try' : 'tries' }}, last
      {{ ageText(now - knock.lastAt) }} · valid until {{ dayText(knock.facts.validTo) }}
    </p>
    <p class="mono">{{ fingerprintText(knock.facts.fingerprintSha1) }}</p>
    <p v-for="found in knock.problems" :key="found.kind" class="is-late">{{ found.text }}</p>
    <div v-if="session.can('configure')" class="buttons">
      <BusyButton v-if="!hopeless" variant="flat" :busy="busy" @click="decide('trusted')">{{
        knock.problems.length ? 'Let it in nevertheless' : 'Let it in'
      }}</BusyButton>
      <v-btn :disabled="busy" @click="decide('refused')">Refuse</v-btn>
    </div>
    <FaultNote v-if="problem" :fault="problem.why" />
  </section>
</template>

<style scoped>
.knock + .knock {
  margin-top: 14px;
}
strong {
  font-weight: 600;
}
p {
  margin: 2px 0;
}
.buttons {
  display: flex;
  gap: 8px;
  margin-top: 8px;
}
</style>
