<script setup lang="ts">
/** The first paper of a sheet as it prints: a page beside the list, or every page at a size one reads. */
import { computed, ref, watch } from 'vue'
import { api, ask, type Schemas } from '@/api/client'
import { useFailing } from '@/shared/failing'
import { kept } from '@/shared/kept'

const props = defineProps<{ sheetId: number; changes: number; empty: boolean; settle: () => Promise<void> }>()
const { failure, busy: drawing, attempt } = useFailing()
const drawn = ref<Schemas['PagesReply'] | null>(null)
const page = ref(1)
const stamp = ref(0)
const reading = ref(false)
const ZOOMS = [60, 80, 100, 125, 150, 200] as const
const zoom = kept<number>('sheet.zoom', 100)
const pages = computed(() => drawn.value?.pages ?? 0)
const open = computed(() => drawn.value !== null)
const picture = (n: number) => `/api/v1/sheets/${props.sheetId}/preview/${n}.png?v=${stamp.value}`
/** An inch of paper at 100 %, for a page of eight and a half. */
const width = computed(() => `${Math.round(8.16 * zoom.value)}px`)

/** Draw it, and turn to where a call (from 0) begins. */
const draw = (call?: number) =>
  attempt(async () => {
    await props.settle()
    const at = props.changes
    drawn.value = await ask(
      api.GET('/api/v1/sheets/{sheet_id}/preview', { params: { path: { sheet_id: props.sheetId } } }),
    )
    page.value = Math.min(Math.max(starts(call) ?? page.value, 1), pages.value)
    stamp.value += 1
    drawnAt.value = at
  })
const starts = (call?: number) => (call === undefined ? undefined : drawn.value?.starts?.[call])
function turnTo(call: number): void {
  page.value = starts(call) ?? page.value
}
function turn(by: number): void {
  page.value = Math.min(Math.max(page.value + by, 1), pages.value)
}
function key(event: KeyboardEvent): void {
  if (event.key === 'PageDown' || event.key === 'ArrowRight') turn(1)
  else if (event.key === 'PageUp' || event.key === 'ArrowLeft') turn(-1)
  else return
  event.preventDefault()
}
function closer(by: number): void {
  const at = ZOOMS.findIndex((z) => z >= zoom.value)
  zoom.value = ZOOMS[Math.min(Math.max(at + by, 0), ZOOMS.length - 1)] ?? 100
}
const drawnAt = ref(0)
const old = computed(() => open.value && drawnAt.value !== props.changes)
watch(
  () => props.empty,
  (now) => now && (drawn.value = null),
)
defineExpose({ draw, turnTo, drawing, open })
</script>

<template>
  <h2>As it prints</h2>
  <p v-if="failure" class="error" role="alert">{{ failure }}</p>
  <template v-if="pages">
    <div class="turn">
      <button
        v-for="n in pages"
        :key="n"
        type="button"
        :class="{ on: n === page }"
        :aria-label="`Page ${n} of ${pages}`"
        :aria-current="n === page ? 'page' : undefined"
        @click="page = n"
      >
        {{ n }}
      </button>
      <span class="grow" /><el-button size="small" data-test="read-pages" @click="reading = true">Enlarge</el-button>
    </div>
    <p v-if="drawn?.guessing !== null && drawn?.guessing !== undefined" class="soft" data-test="guessing">
      Guessing earns {{ Math.round(100 * drawn.guessing) }} %<b v-if="drawn.over?.length" class="over"
        >, and a shortcut pays too much: {{ drawn.over.join('; ') }}</b
      >
    </p>
    <p v-if="old" class="soft" role="status">
      Changed since: <button class="link" @click="draw()">draw it again</button>
    </p>
    <button type="button" class="shot" title="Enlarge" @click="reading = true">
      <img
        :src="picture(page)"
        :alt="`Page ${page} of the first paper as it prints`"
        :class="{ old }"
        data-test="page"
      />
    </button>
    <el-dialog v-model="reading" fullscreen :title="`Page ${page} of ${pages}`" class="reading" @keydown="key">
      <div class="reader">
        <nav aria-label="Pages">
          <button
            v-for="n in pages"
            :key="n"
            type="button"
            :class="{ on: n === page }"
            :aria-current="n === page ? 'page' : undefined"
            @click="page = n"
          >
            <img :src="picture(n)" :alt="`Page ${n}`" loading="lazy" /><span>{{ n }}</span>
          </button>
        </nav>
        <div class="big" tabindex="0" aria-label="The page">
          <div class="zoom">
            <button type="button" aria-label="Smaller" @click="closer(-1)">−</button
            ><span class="num">{{ zoom }} %</span
            ><button type="button" aria-label="Larger" @click="closer(1)">+</button>
          </div>
          <img :src="picture(page)" :alt="`Page ${page} at reading size`" :style="{ width }" />
        </div>
      </div>
    </el-dialog>
  </template>
  <div v-else class="blank">
    <p class="soft">
      {{
        drawing
          ? 'Drawing the first paper …'
          : 'The first apprentice’s paper, page by page, with the very numbers that will be printed.'
      }}
    </p>
    <el-button :loading="drawing" :disabled="empty" @click="draw()">Preview</el-button>
  </div>
</template>

<style scoped>
.turn {
  display: flex;
  gap: 4px;
  align-items: center;
  margin-bottom: 6px;
  flex-wrap: wrap;
}
.turn > button,
.zoom button {
  border: 1px solid var(--edge);
  background: none;
  border-radius: 3px;
  min-width: 28px;
  height: 28px;
  cursor: pointer;
  color: var(--ink);
}
.turn > button.on {
  background: var(--violet);
  color: var(--white);
  border-color: var(--violet);
}
.turn > :deep(.el-button) {
  width: auto;
}
.grow {
  flex: 1;
}
.over {
  color: var(--high);
}
.link {
  border: 0;
  background: none;
  color: var(--violet);
  text-decoration: underline;
  cursor: pointer;
  font: inherit;
  min-height: 24px;
}
.shot {
  display: block;
  width: 100%;
  padding: 0;
  border: 1px solid var(--line);
  background: none;
  cursor: zoom-in;
}
.shot img {
  width: 100%;
  display: block;
}
.old {
  opacity: 0.55;
}
.blank {
  border: 1px dashed var(--edge);
  border-radius: 3px;
  padding: 40px 20px;
  text-align: center;
}
.reader {
  display: grid;
  grid-template-columns: 128px minmax(0, 1fr);
  gap: 14px;
  height: calc(100vh - 90px);
}
.reader nav {
  overflow-y: auto;
  display: grid;
  gap: 8px;
  align-content: start;
}
.reader nav button {
  border: 2px solid transparent;
  background: none;
  padding: 3px;
  cursor: pointer;
  color: var(--ink);
}
.reader nav button.on {
  border-color: var(--violet);
}
.reader nav img {
  width: 100%;
  border: 1px solid var(--line);
  display: block;
}
.big {
  overflow: auto;
  background: var(--el-fill-color);
  text-align: center;
  position: relative;
}
.big > img {
  display: inline-block;
  border: 1px solid var(--line);
  background: var(--white);
  margin: 10px;
}
.zoom {
  position: sticky;
  top: 6px;
  float: right;
  margin-right: 10px;
  display: flex;
  gap: 6px;
  align-items: center;
  background: var(--card);
  padding: 4px 8px;
  border: 1px solid var(--line);
  border-radius: 3px;
}
@media (max-width: 760px) {
  .reader {
    grid-template-columns: 1fr;
    grid-template-rows: auto 1fr;
  }
  .reader nav {
    display: flex;
  }
  .reader nav img {
    width: 54px;
  }
}
</style>
