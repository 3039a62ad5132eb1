<script setup lang="ts">
import { bytesLine } from '#core/text/bytesText'
import { clockText } from '#core/text/moment'
import type { PassedPiece, Verdict } from '#shared/diagnosis'

/** The last exchange that worked, and what passed after it. */
const props = defineProps<{ exchange: NonNullable<Verdict['exchange']> }>()
const parts = computed(() => [
  { title: 'The last that worked', pieces: props.exchange.good, none: 'none is remembered' },
  { title: 'What passed after it', pieces: props.exchange.failed, none: 'nothing: neither a question nor an answer' },
])
const bytesOf = ({ bytes }: PassedPiece) => Uint8Array.from(atob(bytes), (c) => c.charCodeAt(0))
const shown = 40
</script>

<template>
  <section class="sheet exchange">
    <h2 class="sheet-title">On the wire when it broke</h2>
    <template v-for="part in parts" :key="part.title">
      <h3>{{ part.title }}</h3>
      <p v-if="part.pieces.length === 0" class="quiet">{{ part.none }}</p>
      <div v-for="piece in part.pieces" :key="`${piece.at} ${piece.out}`" class="piece">
        <span class="mono">{{ clockText(piece.at) }}</span>
        <span :class="piece.out ? 'out' : 'in'">{{ piece.out ? 'sent' : 'came' }}</span>
        <span class="number">{{ piece.length }}</span>
        <span class="mono bytes">{{ bytesLine(bytesOf(piece), shown) }}</span>
      </div>
    </template>
  </section>
</template>

<style scoped>
.exchange {
  padding: 12px 16px;
}
h3 {
  font-size: 12px;
  font-weight: 600;
  margin: 8px 0 2px;
}
p {
  margin: 0;
}
.piece {
  display: grid;
  grid-template-columns: 92px 38px 44px 1fr;
  gap: 10px;
  padding: 2px 0;
  font-size: 12px;
}
.bytes {
  overflow-wrap: anywhere;
}
.in {
  color: var(--flow);
}
.out {
  color: var(--copper);
}
</style>
