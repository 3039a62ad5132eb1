<script setup lang="ts">
import { qualityText } from '#core/tags/quality'
import { bytesLines } from '#core/text/bytesText'
import { counted } from '#core/text/counted'
import { momentText } from '#core/text/moment'
import type { CheckEvidence } from '#shared/checks'

/** What is attached to a check: the value then, how it was made, and its frames byte by byte. */
const props = defineProps<{ evidence: CheckEvidence; unit: string }>()
defineSlots<{ default?(): unknown }>()
const bytesOf = (base64: string) => Uint8Array.from(atob(base64), (one) => one.charCodeAt(0))
const parts = computed(() => {
  const { stages, frames } = props.evidence
  return [...(stages.length > 0 ? [counted(stages.length, 'step')] : []), ...(frames.length > 0 ? [counted(frames.length, 'frame')] : [])]
})
</script>

<template>
  <details class="evidence">
    <summary>
      <span class="mono of">{{ evidence.value }} {{ unit }}</span>
      <span class="quiet">{{ [qualityText(evidence.quality), momentText(evidence.at), ...parts].join(', ') }}</span>
      <slot />
    </summary>
    <dl>
      <template v-for="(stage, i) in evidence.stages" :key="i">
        <dt>{{ stage.title }}</dt>
        <dd>
          <span class="mono">{{ stage.text }}</span>
          <span class="quiet">{{ stage.detail }} {{ stage.at === undefined ? '' : momentText(stage.at) }}</span>
        </dd>
      </template>
    </dl>
    <figure v-for="(frame, i) in evidence.frames" :key="`frame ${i}`">
      <figcaption>{{ frame.out ? 'Sent' : 'Received' }}: {{ frame.summary }}, {{ counted(frame.length, 'byte') }}</figcaption>
      <pre class="mono">{{ bytesLines(bytesOf(frame.bytes)) }}</pre>
    </figure>
  </details>
</template>

<style scoped>
.evidence {
  border-left: 3px solid var(--line);
  min-width: 0;
  padding-left: 10px;
  font-size: 12px;
}
summary {
  cursor: pointer;
}
.of,
dd .mono {
  margin-right: 6px;
}
dl {
  display: grid;
  grid-template-columns: auto 1fr;
  gap: 2px 10px;
  margin: 6px 0;
}
dt {
  color: var(--quiet);
}
dd {
  margin: 0;
  overflow-wrap: anywhere;
}
figure {
  margin: 6px 0;
}
pre {
  margin: 2px 0 0;
  font-size: 11px;
  overflow-x: auto;
}
</style>
