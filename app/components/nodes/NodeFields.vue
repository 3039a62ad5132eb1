<script setup lang="ts">
import type { NodeDoor, NodeDraft } from '#shared/nodes'

/** What a person says of a node: what it is called, and whether its machine stands by for the whole site. */
const draft = defineModel<NodeDraft>({ required: true })
defineProps<{ messageFor(path: string): string; isMachine?: boolean; autofocus?: boolean }>()
defineEmits<{ left: [path: string] }>()

const blank: NodeDoor = { host: '', outsidePort: null, interface: '0.0.0.0', port: 8471 }
const door = computed(() => draft.value.door ?? blank)
const standBy = (standsBy: boolean | null) =>
  (draft.value = { ...draft.value, standsBy: standsBy === true, door: standsBy ? door.value : draft.value.door })
</script>

<template>
  <div class="fields">
    <TextField
      v-model="draft.name"
      label="Name"
      placeholder="Outer quay"
      :message="messageFor('name')"
      :autofocus="autofocus"
      @left="$emit('left', 'name')"
    />
    <TextField
      v-model="draft.note"
      label="Where it stands, what for"
      placeholder="cabinet of the cable arms"
      :message="messageFor('note')"
      @left="$emit('left', 'note')"
    />
    <v-checkbox
      v-if="!isMachine"
      :model-value="draft.standsBy"
      label="It stands by for the whole site"
      density="compact"
      hide-details
      class="wide"
      @update:model-value="standBy"
    />
    <p v-if="!isMachine" class="wide quiet">
      {{
        draft.standsBy
          ? 'It shares the database of this site, has the whole application, and leads the site within seconds when the machine that leads it is gone.'
          : 'It runs links only, and goes on for days without this site.'
      }}
    </p>
    <NodeDoorFields
      v-if="draft.standsBy"
      :model-value="door"
      path="door."
      is-elsewhere
      :message-for="messageFor"
      @update:model-value="draft = { ...draft, door: $event }"
      @left="$emit('left', $event)"
    />
  </div>
</template>

<style scoped>
.fields {
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(200px, 1fr));
  gap: 10px 14px;
  align-items: start;
}
.wide {
  grid-column: 1 / -1;
}
p {
  margin: -4px 0 0;
}
</style>
