<script setup lang="ts">
import { fingerprintText } from '#core/certificates/judge'
import { endRelay } from '#shared/api/relays'
import type { Flow } from '#shared/flow'
import type { Relay } from '#shared/pairing'

/** What is paired: with whom, which way values go, how it is now, and the way to end it. */
const props = defineProps<{ relays: Relay[] }>()
const emit = defineEmits<{ changed: []; again: [relay: Relay] }>()
const live = useLive()
const session = useSession()
const notices = useNotices()
const { refused, attempt } = useAttempt()
const asking = shallowRef<Relay | null>(null)
const isAsking = computed({ get: () => asking.value !== null, set: (open) => open || (asking.value = null) })

const stateOf = ({ of, id, verdict }: Relay): { flow: Flow; sentence: string } => {
  if (verdict === 'refused') return { flow: 'off', sentence: 'ended from this side' }
  const things = of === 'link' ? live.status?.links : live.status?.outlets
  return things?.find((thing) => thing.id === id) ?? { flow: 'off', sentence: 'not known yet' }
}
const shown = computed(() => props.relays.map((relay) => ({ relay, state: stateOf(relay) })))
const end = async () => {
  const relay = asking.value
  asking.value = null
  if (!relay) return
  await attempt(async () => {
    const { revision } = await callApi(endRelay, { body: { of: relay.of, id: relay.id } })
    notices.tell(`The pairing of “${relay.name}” with “${relay.partner}” is ended.`, revision)
    emit('changed')
  })
}
</script>

<template>
  <section class="sheet part">
    <h2 class="sheet-title">Paired <span class="quiet light">copies of this application, each with one secured connection</span></h2>
    <FaultNote v-if="refused" :fault="refused.why" />
    <table class="rows">
      <thead>
        <tr>
          <th>Here</th>
          <th>With</th>
          <th>State</th>
          <th>Dialled</th>
          <th><span class="d-sr-only">Actions</span></th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="{ relay, state } in shown" :key="`${relay.of} ${relay.id}`">
          <td>
            <NuxtLink :to="`/${relay.of}s/${relay.id}`" class="link strong">{{ relay.name }}</NuxtLink>
            <small class="quiet">{{ relay.of === 'link' ? 'its values come here' : 'our values go there' }}</small>
          </td>
          <td>
            {{ relay.partner }}
            <small class="mono quiet" :title="fingerprintText(relay.fingerprint)"
              >{{ fingerprintText(relay.fingerprint).slice(0, 23) }}…</small
            >
          </td>
          <td>
            <span class="state"><PipeGlyph :flow="state.flow" :width="38" />{{ state.sentence }}</span>
          </td>
          <td>
            {{ relay.dials === 'here' ? 'by us' : 'by it' }} <small class="mono quiet">{{ relay.at }}</small>
          </td>
          <td>
            <div v-if="session.can('configure')" class="actions">
              <v-btn height="24" @click="$emit('again', relay)">Pair again</v-btn>
              <v-btn v-if="relay.verdict !== 'refused'" height="24" @click="asking = relay">End…</v-btn>
            </div>
          </td>
        </tr>
      </tbody>
    </table>
    <AskDialog v-model="isAsking" :title="`End the pairing with “${asking?.partner}”?`" yes="End it" no="Keep" grave @yes="end">
      <p>Its certificate is refused here from now on; connections end at once. Tags and settings stay. A new code pairs the two again.</p>
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
small {
  display: block;
}
.strong {
  font-weight: 600;
}
.state {
  display: flex;
  gap: 10px;
  align-items: center;
}
.actions {
  display: flex;
  gap: 6px;
  justify-content: flex-end;
}
</style>
