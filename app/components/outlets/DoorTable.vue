<script setup lang="ts">
import type { DoorStatus } from '#shared/outlets/doorStatus'

/** The doors of an outlet as they stand: how each fares, what clients dial, and how they come in. */
defineProps<{ doors: readonly DoorStatus[]; security(door: number): string; identity(door: number): string }>()
const live = useLive()
const { copied, copy } = useCopy()
</script>

<template>
  <section class="sheet doors">
    <h2 class="sheet-title">Doors <span class="quiet light">where it listens, and how a client may come in</span></h2>
    <table class="rows">
      <thead>
        <tr>
          <th>Flow</th>
          <th>Interface</th>
          <th>Address to give out</th>
          <th>Security</th>
          <th>Identity</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="(door, i) in doors" :key="i">
          <td><PipeGlyph :flow="door.flow" :width="38" /></td>
          <td class="tight">{{ interfaceText(door.interface, live.status?.interfaces) }}</td>
          <td class="mono tight">
            {{ door.address }}
            <v-btn height="22" class="copy" @click="copy(door.address)">{{ copied === door.address ? 'Copied' : 'Copy' }}</v-btn>
          </td>
          <td>{{ security(i) }}</td>
          <td>{{ identity(i) }}</td>
        </tr>
        <tr v-if="!doors.length">
          <td><PipeGlyph flow="off" :width="38" /></td>
          <td colspan="4" class="quiet">closed</td>
        </tr>
      </tbody>
    </table>
  </section>
</template>

<style scoped>
.doors {
  padding: 12px 14px;
  overflow-x: auto;
}
.light {
  font-weight: 400;
}
.tight {
  white-space: nowrap;
}
.copy {
  margin-left: 8px;
}
</style>
