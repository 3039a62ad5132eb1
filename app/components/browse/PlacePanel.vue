<script setup lang="ts">
import { clockText } from '#core/text/moment'
import { qualityText } from '#core/tags/quality'
import { behindValue, namesText } from '#core/tags/valueNames'
import { duration } from '#core/text/duration'
import type { BrowsedNode, PlaceDetails } from '#shared/browse'

/** One point of the far side: what it is, what it says now, and where it lives. */
const props = defineProps<{
  node: BrowsedNode
  names: readonly string[]
  details: PlaceDetails | undefined
  picked: boolean
  /** Where a bridge begins that this sets off; empty: nowhere. */
  bridge?: string
}>()
defineEmits<{ pick: []; branch: [] }>()
const { copied, copy } = useCopy()
const value = computed(() => props.details?.text || '—')
const range = computed(() =>
  props.details?.range ? `, range ${props.details.range.low} … ${props.details.range.high} ${props.details.unit}` : '',
)
const access = computed(() => ({ none: 'may not be read', read: 'read', readwrite: 'read and write' })[props.details?.access ?? 'none'])
</script>

<template>
  <section class="panel">
    <h2>{{ node.name }}</h2>
    <p class="quiet">{{ names.join(' / ') }}</p>
    <template v-if="details?.type">
      <p class="value mono">
        {{ value }} <small class="quiet">{{ behindValue(details.value, { names: details.names ?? [], unit: details.unit }) }}</small>
      </p>
      <dl>
        <dt>Address</dt>
        <dd class="mono">
          {{ node.address }}
          <button type="button" class="link" @click="copy(node.address)">{{ copied === node.address ? 'copied' : 'copy' }}</button>
        </dd>
        <template v-if="node.member">
          <dt>Inside it</dt>
          <dd class="mono">{{ node.member }}</dd>
        </template>
        <dt>Type</dt>
        <dd>{{ details.typeName || details.type }}{{ range }}, as a tag {{ details.type }}</dd>
        <dt>Access</dt>
        <dd>{{ access }}</dd>
        <template v-if="details.samplesEvery">
          <dt>Sampled</dt>
          <dd>at best every {{ duration(details.samplesEvery) }}</dd>
        </template>
        <dt>Quality</dt>
        <dd>
          {{ qualityText(details.quality) }}<template v-if="details.sourceTime">, source time {{ clockText(details.sourceTime) }}</template>
        </dd>
        <template v-if="details.names?.length">
          <dt>Means</dt>
          <dd>{{ namesText(details.names) }}</dd>
        </template>
        <template v-if="details.description">
          <dt>Says</dt>
          <dd>{{ details.description }}</dd>
        </template>
        <dt>Lives in</dt>
        <dd>{{ names.slice(0, -1).join(' / ') || 'the top' }}</dd>
      </dl>
      <v-btn :variant="picked ? 'outlined' : 'flat'" @click="$emit('pick')">{{ picked ? 'Leave it out' : 'Take it' }}</v-btn>
    </template>
    <template v-else-if="node.kind === 'method'">
      <p>A method: something to call, not a value to read.</p>
    </template>
    <template v-else>
      <p v-if="details?.children != null">{{ details.children }}{{ details.childrenMore ? ' or more' : '' }} inside.</p>
      <p v-if="details?.description" class="quiet">{{ details.description }}</p>
      <v-btn @click="$emit('branch')">Take everything below</v-btn>
    </template>
    <v-btn v-if="bridge" class="beside" :to="bridge">Bridge it</v-btn>
  </section>
</template>

<style scoped>
.beside {
  margin-left: 8px;
}
.panel {
  flex: 1;
  min-width: 300px;
  padding: 14px 16px;
  overflow: auto;
}
h2 {
  font-size: 15px;
  font-weight: 600;
  margin: 0;
}
p {
  margin: 2px 0 10px;
}
.value {
  font-size: 22px;
  margin: 6px 0;
  overflow-wrap: anywhere;
}
.value small {
  font-size: 13px;
}
dl {
  display: grid;
  grid-template-columns: 76px 1fr;
  margin: 0 0 12px;
}
dt,
dd {
  margin: 0;
  padding: 4px 0;
  border-bottom: 1px solid var(--line-soft);
  overflow-wrap: anywhere;
}
dt {
  color: var(--quiet);
}
.link {
  color: var(--primary);
  text-decoration: underline;
  font-family: 'IBM Plex Sans', sans-serif;
}
</style>
