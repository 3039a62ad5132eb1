<script setup lang="ts" generic="Door extends DoorPlace">
import type { DoorPlace } from '#shared/outlets/doors'

/** The frame of the settings of any outlet: doors left; what is shown, and who may come in, right. */
const doors = defineModel<Door[]>({ required: true })

/** The same as the last one, on the next port: most doors differ in little. */
const addDoor = () => {
  const port = Math.max(...doors.value.map((door) => door.port)) + 1
  doors.value.push({ ...copyOf(doors.value.at(-1)!), port })
}
/** A copy that shares nothing. */
const copyOf = (door: Door) => JSON.parse(JSON.stringify(door)) as Door
</script>

<template>
  <section class="sheet part">
    <slot name="head" />
    <h2 class="sheet-title">Doors <span class="quiet light">where it listens, and how a client may come in</span></h2>
    <template v-for="(_, i) in doors" :key="i">
      <slot name="door" :at="i" :drop="() => doors.splice(i, 1)" />
    </template>
    <v-btn class="more" @click="addDoor">Add a door</v-btn>
    <slot name="besideDoors" />
  </section>
  <section class="sheet part">
    <slot />
    <div class="folds"><slot name="folds" /></div>
    <slot name="foot" />
  </section>
</template>

<style scoped>
.part {
  padding: 14px 16px;
}
.light {
  font-weight: 400;
}
.more,
:slotted(.more) {
  margin-top: 10px;
}
:slotted(.next) {
  margin-top: 16px;
  padding-top: 12px;
  border-top: 1px solid var(--line-soft);
}
:slotted(.rules) {
  margin-top: 8px;
}
.folds {
  margin-top: 16px;
}
</style>
