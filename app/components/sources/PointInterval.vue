<script setup lang="ts">
import { linkKinds, protocolOf } from '#core/links/registry'
import { duration } from '#core/text/duration'
import type { PointSource } from '#shared/sources/point'
import type { Drawn } from '#shared/sources/source'
import { linkIn } from '~/sources/face'

/** How often a point is read, and whether its unit can hold that. */
const draft = defineModel<Drawn<PointSource>>({ required: true })
defineProps<{ messageFor(path: string): string }>()
defineEmits<{ left: [path: string] }>()

const lists = useLists()
const live = useLive()
const link = computed(() => linkIn(lists.links, draft.value.source.linkId))
const protocol = computed(() => protocolOf(link.value?.kind ?? linkKinds[0]))
const unitName = computed(() => {
  const facts = link.value && protocol.value.describe(draft.value.source.address, link.value.settings)
  return facts?.ok ? facts.unit : null
})

/** Null: values come when the far side sends them, and are not asked for. */
const asTheLink = computed(() => (link.value ? protocol.value.interval(link.value.settings) : 1000))
const hint = computed(() => {
  const { linkId, interval } = draft.value.source
  const unit = live.status?.links.find(({ id }) => id === linkId)?.units?.find(({ unit: name }) => name === unitName.value)
  const round = unit?.rounds.reduce((longest, one) => Math.max(longest, one.measuredMs ?? 0), 0)
  const wanted = interval ?? asTheLink.value ?? 0
  if (round && round > wanted)
    return `The ${protocol.value.part ?? 'unit'} ${unit!.unit} needs about ${duration(round)} for a round now; ${duration(wanted)} is more than it can hold.`
  return `empty: ${duration(asTheLink.value ?? 0)}, as the link has it`
})
</script>

<template>
  <NumberField
    v-if="asTheLink !== null || draft.source.interval !== null"
    :model-value="draft.source.interval"
    :label="protocol.capabilities.watch ? 'Notified every' : 'Read every'"
    unit="ms"
    :message="messageFor('source.interval')"
    :hint="hint"
    @update:model-value="draft.source = { ...draft.source, interval: $event }"
    @left="$emit('left', 'source.interval')"
  />
</template>
