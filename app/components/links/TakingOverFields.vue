<script setup lang="ts">
import type { OpcuaSettings } from '#core/opcua/settings'

type TakesOver = NonNullable<OpcuaSettings['takesOver']>

/** Whether everything below a place there becomes tags here, and where those stand. */
const takesOver = defineModel<TakesOver | null>({ required: true })
defineProps<{ message(path: string): string }>()
defineEmits<{ left: [path: string] }>()

/** What was typed comes back when it is switched on again. */
let before: TakesOver = { place: '', namespaces: [], folder: '', gone: 'keep' }
const isOn = computed({
  get: () => takesOver.value !== null,
  set: (on) => {
    if (takesOver.value) before = takesOver.value
    takesOver.value = on ? before : null
  },
})
const goneChoices = [
  { value: 'keep', title: 'They stay', subtitle: 'and are bad until it is there again' },
  { value: 'remove', title: 'They are removed', subtitle: 'their history stays' },
] as const
/** One a line: URIs hold everything that else could part them. As it is typed, so that a new line can be begun. */
const namespaces = ref(takesOver.value?.namespaces.join('\n') ?? '')
watch(namespaces, (text) => {
  const lines = text.split('\n').map((line) => line.trim())
  if (takesOver.value) takesOver.value.namespaces = lines.filter(Boolean)
})
</script>

<template>
  <v-switch v-model="isOn" label="Everything there becomes tags here" class="all" />
  <template v-if="takesOver">
    <TextField
      v-model="takesOver.folder"
      label="In the folder"
      mono
      placeholder="as it stands there"
      :message="message('takesOver.folder')"
      @left="$emit('left', 'takesOver.folder')"
    />
    <TextField
      v-model="takesOver.place"
      label="Below the node"
      mono
      placeholder="all objects"
      :message="message('takesOver.place')"
      @left="$emit('left', 'takesOver.place')"
    />
    <ChoiceField v-model="takesOver.gone" label="Tags that are gone there" :choices="goneChoices" />
    <div class="all">
      <label class="label" for="taken-namespaces">Only of these namespaces, one URI a line</label>
      <v-textarea
        id="taken-namespaces"
        v-model="namespaces"
        rows="2"
        class="mono"
        placeholder="of all"
        :error-messages="message('takesOver.namespaces')"
        @blur="$emit('left', 'takesOver.namespaces')"
      />
    </div>
    <p class="quiet all">
      It is looked at again and again: what is new there is made here within a minute or so, what has another type gets it. Names, units and
      descriptions may be changed here; tags made by hand are left alone. Of another copy of Keen Conduit the tags alone are
      <span class="mono">urn:keen-conduit:tags</span>.
    </p>
  </template>
</template>

<style scoped>
.all {
  grid-column: 1 / -1;
}
p {
  margin: 0;
}
</style>
