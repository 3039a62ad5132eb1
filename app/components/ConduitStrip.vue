<script setup lang="ts">
import { besides, stations } from '~/stations'

const route = useRoute()
const live = useLive()
const { counts, stretches, notes } = useConduit()
const isAt = (path: string) => route.path === path || route.path.startsWith(`${path}/`)
const isHere = (path: string) => isAt(path) || stations.some((station) => station.path === path && 'also' in station && isAt(station.also))
</script>

<template>
  <nav class="strip" aria-label="Conduit">
    <template v-for="station in stations" :key="station.path">
      <PipeGlyph v-if="stretches[station.title]" :flow="live.status ? stretches[station.title]! : 'waiting'" :width="80" class="stretch" />
      <NuxtLink :to="station.path" class="station" :class="{ here: isHere(station.path) }">
        <strong>{{ station.title }}</strong>
        <span class="count">{{ counts[station.title]!.count.toLocaleString('en-GB') }}</span>
        <span class="note" :class="`is-${counts[station.title]!.flow}`">{{ counts[station.title]!.note }}</span>
      </NuxtLink>
    </template>
    <span class="fill" />
    <span v-if="!live.connected" class="away is-broken">The web application does not answer; trying again</span>
    <span v-else-if="live.engineAway" class="away is-broken">The engine does not answer; it is being brought back</span>
    <span v-else-if="live.status && !live.status.databaseConnected" class="away is-late"
      >Database away; running on the last configuration</span
    >
    <NuxtLink v-for="place in besides" :key="place.path" :to="place.path" class="beside" :class="{ here: isHere(place.path) }"
      >{{ place.title
      }}<span v-if="notes[place.path]" class="count-beside" :class="notes[place.path]!.flow && `is-${notes[place.path]!.flow}`">{{
        notes[place.path]!.note
      }}</span></NuxtLink
    >
  </nav>
</template>

<style scoped>
.strip {
  display: flex;
  align-items: flex-start;
  height: 74px;
  padding: 10px 20px 0 34px;
  background: var(--surface);
  border-bottom: 1px solid var(--line);
}
.station {
  position: relative;
  width: 78px;
  height: 40px;
  border: 1px solid var(--line);
  border-radius: 6px;
  display: flex;
  flex-direction: column;
  align-items: center;
  justify-content: center;
  line-height: 1.25;
  color: var(--ink);
  text-decoration: none;
  background: var(--surface);
}
.station.here {
  background: #0e5a63;
  border-color: #0e5a63;
  color: #fff;
}
.station:focus-visible,
.beside:focus-visible {
  outline: 2px solid var(--copper);
  outline-offset: 1px;
}
.station strong {
  font-weight: 600;
}
.count {
  font-size: 12px;
  opacity: 0.75;
}
.note {
  position: absolute;
  top: 43px;
  left: 50%;
  transform: translateX(-50%);
  font-size: 11px;
  white-space: nowrap;
  color: var(--quiet);
}
.note.is-broken {
  color: var(--break);
}
.note.is-late {
  color: var(--copper);
}
.stretch {
  margin-top: 13px;
}
.fill {
  flex: 1;
}
.away {
  margin: 11px 24px 0 0;
  font-weight: 500;
}
.beside {
  margin-top: 10px;
  padding: 2px 4px;
  margin-left: 26px;
  font-weight: 500;
  color: var(--quiet);
  text-decoration: none;
}
.beside {
  position: relative;
}
.count-beside {
  position: absolute;
  top: 33px;
  left: 50%;
  transform: translateX(-50%);
  font-size: 11px;
  font-weight: 400;
  white-space: nowrap;
}
.beside.here {
  color: var(--primary);
  border-bottom: 2px solid var(--primary);
}
</style>
