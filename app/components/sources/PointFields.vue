<script setup lang="ts">
import { linkKinds, protocolOf } from '#core/links/registry'
import { duration } from '#core/text/duration'
import type { PointSource } from '#shared/sources/point'
import type { Drawn } from '#shared/sources/source'
import { linkForms } from '~/links/registry'
import { linkIn } from '~/sources/face'

/** Which point of which link: its address in every notation, and what its protocol asks besides. */
const draft = defineModel<Drawn<PointSource>>({ required: true })
defineProps<{ messageFor(path: string): string }>()
defineEmits<{ left: [path: string] }>()

const lists = useLists()
const live = useLive()
const source = computed(() => draft.value.source)
const change = (part: Partial<PointSource>) => (draft.value.source = { ...draft.value.source, ...part })
const link = computed(() => linkIn(lists.links, source.value.linkId) ?? null)
const protocolKind = computed(() => link.value?.kind ?? linkKinds[0])
const protocol = computed(() => protocolOf(protocolKind.value))
const facts = computed(() => (link.value ? protocol.value.describe(source.value.address, link.value.settings) : null))
const linkChoices = computed(() => lists.links.map(({ id, name }) => ({ value: id, title: name })))

watch(
  () => draft.value.type,
  (type) => change({ options: protocol.value.optionsFor(type, source.value.options) }),
)

const intervalHint = computed(() => {
  const unit = live.status?.links
    .find(({ id }) => id === link.value?.id)
    ?.units.find(({ unit: name }) => facts.value?.ok && name === facts.value.unit)
  const round = unit?.rounds.reduce((longest, one) => Math.max(longest, one.measuredMs ?? 0), 0)
  const asTheLink = link.value ? protocol.value.interval(link.value.settings) : 1000
  const wanted = source.value.interval ?? asTheLink
  if (round && round > wanted)
    return `Unit ${unit!.unit} needs about ${duration(round)} for a round now; ${duration(wanted)} is more than it can hold.`
  return `empty: ${duration(asTheLink)}, as the link has it`
})
</script>

<template>
  <div class="wide column">
    <TextField
      :model-value="source.address"
      label="Address"
      mono
      :placeholder="linkForms[protocolKind].addressExample"
      :message="messageFor('source.address')"
      @update:model-value="change({ address: $event })"
      @left="$emit('left', 'source.address')"
    />
    <AddressFacts v-if="facts" :facts="facts" />
    <NumberField
      :model-value="source.interval"
      :label="protocol.capabilities.watch ? 'Notified every' : 'Read every'"
      unit="ms"
      :message="messageFor('source.interval')"
      :hint="intervalHint"
      @update:model-value="change({ interval: $event })"
      @left="$emit('left', 'source.interval')"
    />
  </div>
  <div class="column">
    <ChoiceField
      :model-value="source.linkId"
      label="Link"
      :choices="linkChoices"
      :message="messageFor('source.linkId')"
      @update:model-value="change({ linkId: $event })"
    />
    <slot name="type" />
    <component
      :is="linkForms[protocolKind].pointForm"
      v-if="link"
      :model-value="source.options"
      :type="draft.type"
      :settings="link.settings"
      :message-for="(path: string) => messageFor(`source.${path}`)"
      @update:model-value="change({ options: $event })"
      @left="$emit('left', `source.${$event}`)"
    />
  </div>
</template>

<style scoped>
.wide {
  grid-column: span 2;
}
.column {
  display: grid;
  gap: 12px;
  align-content: start;
}
</style>
