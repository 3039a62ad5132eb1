<script setup lang="ts">
import { useIntervalFn } from '@vueuse/core'
import { useTheme } from 'vuetify'
import { clockText } from '#core/text/moment'
import { displayFeed } from '~/displays/feed'

/** A display on a wall: all of it at once, nobody signed in. */
definePageMeta({ layout: 'wall' })
const token = ref('')
onMounted(() => {
  token.value = location.hash.slice(1)
})
const { shown, refused, at, isAway, heardAt, feed } = useWall(() => token.value || location.hash.slice(1))
provide(displayFeed, feed)

const theme = useTheme()
watch(
  () => shown.value?.dark,
  (dark) => theme.change(dark ? 'dark' : 'light'),
)
useHead({ title: computed(() => shown.value?.display.name ?? 'Wall screen') })

const turn = (by: number) => {
  const all = shown.value?.equipment ?? []
  if (all.length > 1) at.value = all[(all.indexOf(shown.value!.in) + by + all.length) % all.length]!
}
let turnedAt = Date.now()
useIntervalFn(() => {
  const every = shown.value?.turnSeconds
  if (!every || Date.now() - turnedAt < every * 1000) return
  turnedAt = Date.now()
  turn(1)
}, 1000)
useRowKeys(() => ({ ArrowLeft: () => turn(-1), ArrowRight: () => turn(1) }))

/** What the link shows changes as a whole; what its panes have does not. */
const grid = computed(() => shown.value && `${shown.value.display.revision} ${shown.value.in}`)
const panes = shallowRef(shown.value?.display.panes ?? [])
watch(grid, () => (panes.value = shown.value?.display.panes ?? []))
const isOver = computed(() => refused.value?.why.code === 'display.no-wall')
</script>

<template>
  <div class="screen">
    <header v-if="shown && !isOver" class="head">
      <h1>{{ shown.display.name }}</h1>
      <template v-if="shown.in">
        <span class="piece">{{ shown.in.split('/').join(' › ') }}</span>
        <span v-if="shown.equipment.length > 1" class="quiet"
          >{{ shown.equipment.indexOf(shown.in) + 1 }} of {{ shown.equipment.length }}</span
        >
      </template>
      <span class="fill" />
      <strong v-if="isAway" class="is-broken" role="alert"
        >No word since {{ heardAt ? clockText(heardAt).slice(0, 8) : 'the start' }}; what stands here is not what is now</strong
      >
      <span class="quiet">{{ shown.site }}</span>
      <span class="mono">{{ shown.now ? clockText(shown.now).slice(0, 8) : '' }}</span>
    </header>
    <FaultNote v-if="isOver || (!shown && refused)" :fault="refused!.why" class="fault" />
    <div v-else-if="shown" class="grid"><DisplayGrid :key="grid!" :panes="panes" fit /></div>
  </div>
</template>

<style scoped>
.screen {
  height: 100%;
  display: flex;
  flex-direction: column;
  padding: 10px 16px;
}
.head {
  display: flex;
  align-items: baseline;
  gap: 16px;
  padding-bottom: 8px;
}
h1 {
  margin: 0;
  font-size: 20px;
  font-weight: 600;
}
.piece {
  font-size: 17px;
}
.fill {
  flex: 1;
}
.grid {
  flex: 1;
  min-height: 0;
}
.fault {
  margin: 15vh auto 0;
  max-width: 560px;
}
</style>
