<script setup lang="ts">
import { linkKinds, protocolOf } from '#core/links/registry'
import type { PointSource } from '#shared/sources/point'
import type { Drawn } from '#shared/sources/source'
import { linkForms } from '~/links/registry'
import { linkIn } from '~/sources/face'

/** Which point of which link: its address in every notation, and what its protocol asks besides. */
const draft = defineModel<Drawn<PointSource>>({ required: true })
const props = defineProps<{ messageFor(path: string): string }>()
const emit = defineEmits<{ left: [path: string] }>()

const lists = useLists()
const source = computed(() => draft.value.source)
const change = (part: Partial<PointSource>) => (draft.value.source = { ...draft.value.source, ...part })
const link = computed(() => linkIn(lists.links, source.value.linkId) ?? null)
const protocolKind = computed(() => link.value?.kind ?? linkKinds[0])
const protocol = computed(() => protocolOf(protocolKind.value))
const facts = computed(() => (link.value ? protocol.value.describe(source.value.address, link.value.settings) : null))
/** What shows an example to point at wants room. */
const isWide = computed(() => linkForms[protocolKind.value].isWide === true)
/** What the form of a protocol is given, in whichever column it stands. */
const asked = computed(() => ({
  modelValue: source.value.options,
  type: draft.value.type,
  settings: link.value?.settings,
  address: source.value.address,
  messageFor: (path: string) => props.messageFor(`source.${path}`),
  'onUpdate:modelValue': (options: PointSource['options']) => change({ options }),
  onLeft: (path: string) => emit('left', `source.${path}`),
}))
const looksUp = ref(false)
const linkChoices = computed(() => lists.pointLinks.map(({ id, name }) => ({ value: id, title: name })))

watch(
  () => draft.value.type,
  (type) => change({ options: protocol.value.optionsFor(type, source.value.options) }),
)
</script>

<template>
  <div class="wide column" @keydown.f1.prevent="looksUp = true">
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
    <button v-if="link" type="button" class="look" @click="looksUp = true">
      Addresses, types and errors of {{ protocol.title }} <kbd>F1</kbd>
    </button>
    <component :is="linkForms[protocolKind].pointForm" v-if="link && isWide" v-bind="asked" />
    <ReferenceDialog
      v-if="link && looksUp"
      v-model="looksUp"
      :reference="protocol.reference(link.settings)"
      :title="`${protocol.title}, as “${link.name}” has it`"
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
    <component :is="linkForms[protocolKind].pointForm" v-if="link && !isWide" v-bind="asked" />
  </div>
</template>

<style scoped>
.wide {
  grid-column: span 2;
}
.look {
  justify-self: start;
  color: var(--primary);
  font-size: 12px;
}
kbd {
  font: 11px var(--mono);
  border: 1px solid var(--line);
  border-radius: 4px;
  padding: 0 4px;
  color: var(--quiet);
}
.column {
  display: grid;
  grid-template-columns: minmax(0, 1fr);
  gap: 12px;
  align-content: start;
}
</style>
