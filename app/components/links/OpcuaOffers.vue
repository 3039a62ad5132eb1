<script setup lang="ts">
import type { Found, Offer } from '#core/opcua/offers'
import { modeText, type Mode, type Policy } from '#core/opcua/settings'
import { counted } from '#core/text/counted'

/** The ways into a server, the safest first; one press takes one. */
const props = defineProps<{ found: Found | null; asking: boolean; isAwaited: boolean; policy: Policy; mode: Mode }>()
defineEmits<{ choose: [offer: Offer]; goTo: [address: string]; ask: [] }>()
const shortly = { anonymous: 'anonymous', password: 'name', certificate: 'certificate' }
const isChosen = (offer: Offer) => offer.policy === props.policy && offer.mode === props.mode
const state = computed(() => {
  if (props.asking) return props.isAwaited ? 'waiting until it dials, a minute at the most…' : 'asking…'
  if (props.found) return `${counted(props.found.offers.length, 'way')} in, the safest first`
  return props.isAwaited ? 'not asked yet' : 'asked for as soon as the address is complete'
})
const others = computed(() => props.found?.servers.filter(({ isThisOne, addresses }) => !isThisOne && addresses.length > 0) ?? [])
</script>

<template>
  <section class="offers" aria-live="polite">
    <div class="head">
      <strong>Offered there</strong>
      <span class="quiet">{{ state }}</span>
      <span class="fill" />
      <v-btn v-if="found && !asking" height="26" @click="$emit('ask')">Ask again</v-btn>
      <v-btn v-else-if="isAwaited && !asking" height="26" @click="$emit('ask')">Ask it once it dials</v-btn>
    </div>
    <table v-if="found?.offers.length" class="rows box" role="radiogroup" aria-label="Ways in">
      <thead>
        <tr>
          <th><span class="d-sr-only">Chosen</span></th>
          <th>Policy</th>
          <th>Mode</th>
          <th>Sign in by</th>
          <th>Answers as</th>
        </tr>
      </thead>
      <tbody>
        <tr
          v-for="offer in found.offers"
          :key="`${offer.policy} ${offer.mode} ${offer.answersAs}`"
          class="opens"
          :class="{ chosen: isChosen(offer) }"
          role="radio"
          :aria-checked="isChosen(offer)"
          tabindex="0"
          @click="$emit('choose', offer)"
          @keydown.enter.prevent="$emit('choose', offer)"
          @keydown.space.prevent="$emit('choose', offer)"
        >
          <td><span class="dot" :class="{ on: isChosen(offer) }" aria-hidden="true" /></td>
          <td class="mono">{{ offer.policy }}</td>
          <td class="nowrap">{{ offer.mode === 'None' ? 'None' : modeText[offer.mode] }}</td>
          <td>{{ offer.identities.map((kind) => shortly[kind]).join(', ') }}</td>
          <td class="quiet cut" :title="offer.note || offer.url">
            {{ offer.answersAs }}<template v-if="offer.note"> · {{ offer.note }}</template>
          </td>
        </tr>
      </tbody>
    </table>
    <p v-if="others.length" class="quiet others">
      It also knows
      <template v-for="server in others" :key="server.applicationUri">
        <button type="button" class="link" @click="$emit('goTo', server.addresses[0]!)">{{ server.name }}</button>
        <span class="mono"> {{ server.addresses[0] }} </span>
      </template>
    </p>
  </section>
</template>

<style scoped>
.offers {
  margin-bottom: 16px;
}
.head {
  display: flex;
  align-items: center;
  gap: 8px;
  min-height: 26px;
  margin-bottom: 6px;
}
.head strong {
  font-weight: 600;
}
.fill {
  flex: 1;
}
.box {
  border: 1px solid var(--line);
  border-radius: 6px;
  border-collapse: separate;
  border-spacing: 0;
  overflow: hidden;
}
.chosen {
  background: var(--tint);
}
.dot {
  display: block;
  width: 8px;
  height: 8px;
  border: 1px solid var(--primary);
  border-radius: 50%;
}
.dot.on {
  background: var(--primary);
}
.nowrap {
  white-space: nowrap;
}
.cut {
  max-width: 150px;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.box td {
  padding-block: 4px;
}
.others {
  margin: 6px 0 0;
}
.link {
  color: var(--primary);
  text-decoration: underline;
}
</style>
