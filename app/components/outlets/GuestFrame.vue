<script setup lang="ts">
/** One who comes in at an outlet: its name; by what it is known and what it may do is said by the kind of outlet. */
const name = defineModel<string>({ required: true })
const props = withDefaults(
  defineProps<{
    number: number
    rights: string
    /** Where it stands in the settings. */
    list?: string
    messageFor(path: string): string
  }>(),
  { list: 'users' },
)
defineEmits<{ left: [path: string]; drop: [] }>()

const path = computed(() => `settings.${props.list}.${props.number - 1}.name`)
</script>

<template>
  <fieldset class="framed">
    <legend>{{ name || `Name ${number}` }}</legend>
    <div class="grid">
      <TextField v-model="name" :label="`Name ${number}`" :message="messageFor(path)" @left="$emit('left', path)" />
      <slot />
    </div>
    <span class="label">{{ rights }}</span>
    <slot name="rights" />
    <v-btn height="26" class="drop" @click="$emit('drop')">Drop this name</v-btn>
  </fieldset>
</template>

<style scoped>
.grid {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 10px;
  margin-bottom: 10px;
}
.drop {
  margin-top: 10px;
}
</style>
