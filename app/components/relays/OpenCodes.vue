<script setup lang="ts">
import { fingerprintText } from '#core/certificates/judge'
import { duration } from '#core/text/duration'
import { withdrawPairingCode } from '#shared/api/relays'
import type { PairingOffer } from '#shared/pairing'

/** Codes that were made here: those that are open, to be carried over, and what became of the last ones. */
const props = defineProps<{ offers: PairingOffer[]; fingerprint: string }>()
const emit = defineEmits<{ changed: [] }>()
const { copied, copy } = useCopy()
const { refused, attempt } = useAttempt()
const now = ref(Date.now())
const timer = setInterval(() => (now.value = Date.now()), 1000)
onUnmounted(() => clearInterval(timer))

const mostEnded = 3
const shown = computed(() => {
  const isOpen = ({ state }: PairingOffer) => state === 'open' || state === 'pairing'
  return [...props.offers.filter(isOpen), ...props.offers.filter((offer) => !isOpen(offer)).slice(0, mostEnded)]
})
const stateText = ({ state, partner, made, endsAt }: PairingOffer) => {
  switch (state) {
    case 'open':
      return `open, for ${duration(Math.max(0, endsAt - now.value))} more`
    case 'pairing':
      return `“${partner?.name}” proved itself; coming together`
    case 'done':
      return `paired with “${partner?.name}”: ${made?.of} “${made?.name}”`
    case 'run-out':
      return 'ran out; nobody came by it'
    case 'withdrawn':
      return 'withdrawn'
    case 'failed':
      return 'came to nothing'
  }
}
const flowOf = ({ state }: PairingOffer) =>
  state === 'done' ? 'flowing' : state === 'failed' ? 'broken' : state === 'open' || state === 'pairing' ? 'late' : 'off'
const placeOf = ({ made }: PairingOffer) => `/${made!.of}s/${made!.id}`
const withdraw = (id: number) =>
  attempt(async () => {
    await callApi(withdrawPairingCode, { params: { id } })
    emit('changed')
  })
</script>

<template>
  <section v-if="shown.length > 0" class="sheet part" aria-live="polite">
    <h2 class="sheet-title">Codes made here</h2>
    <FaultNote v-if="refused" :fault="refused.why" />
    <article v-for="offer in shown" :key="offer.id" :data-code-state="offer.state">
      <div class="line">
        <PipeGlyph :flow="flowOf(offer)" :width="38" />
        <span>{{ stateText(offer) }}</span>
        <NuxtLink v-if="offer.made && offer.state === 'done'" :to="placeOf(offer)" class="link">open it</NuxtLink>
        <span class="fill" />
        <v-btn v-if="offer.state === 'open'" height="24" @click="withdraw(offer.id)">Withdraw</v-btn>
      </div>
      <template v-if="offer.code">
        <p class="mono code">{{ offer.code }}</p>
        <div class="line quiet">
          <button type="button" class="link" @click="copy(offer.code)">{{ copied === offer.code ? 'copied' : 'copy the code' }}</button>
          <span>At the other copy: Site › Relays › Use a code. It shows our fingerprint then:</span>
        </div>
        <p class="mono quiet print">{{ fingerprintText(fingerprint) }}</p>
      </template>
      <p v-if="offer.partner" class="quiet">
        From {{ offer.partner.from }}, certificate <span class="mono print">{{ fingerprintText(offer.partner.fingerprint) }}</span>
      </p>
      <p v-if="offer.tries > 0" class="is-late">{{ offer.tries }} with a wrong proof so far</p>
      <FaultNote v-if="offer.fault" :fault="offer.fault" />
    </article>
  </section>
</template>

<style scoped>
.part {
  padding: 12px 16px;
}
article + article {
  border-top: 1px solid var(--line-soft);
  margin-top: 10px;
  padding-top: 10px;
}
.line {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 4px 10px;
}
.fill {
  flex: 1;
}
.code {
  font-size: 15px;
  font-weight: 600;
  margin: 8px 0 4px;
  overflow-wrap: anywhere;
  user-select: all;
}
.print {
  overflow-wrap: anywhere;
}
p {
  margin: 4px 0 0;
}
</style>
