<script setup lang="ts">
import { computed, onMounted, ref, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { loggedOut, sentence } from '@/api/client'
import PasswordForm from '@/features/session/PasswordForm.vue'
import LoginPage from '@/features/session/LoginPage.vue'
import AskDialog from '@/shared/AskDialog.vue'
import PageSkeleton from '@/shared/PageSkeleton.vue'
import { units } from '@/shared/kept'
import { chooseLanguage, known, logOut, readSession, user } from '@/shared/session'
import UndoBar from '@/shared/UndoBar.vue'
import { language, LANGUAGES, tr } from '@/shared/language'

const failure = ref('')
const inside = computed(() => user.value !== null && !loggedOut.value)
/** Once somebody was in, the page below stays while they log in again. */
const everIn = ref(false)
watch(inside, (now) => (everIn.value ||= now), { immediate: true })
const route = useRoute()
const router = useRouter()
/** Until the first page is here the address alone says where one is. */
const ready = ref(false)
void router.isReady().then(() => (ready.value = true))
const asked = router.resolve(location.pathname)
const bare = computed(() => (ready.value ? route : asked).meta.bare === true)
const askedTitle = String(asked.meta.title ?? '')
/** A page that takes a moment to come says so. */
const moving = ref(false)
let soon = 0
router.beforeEach(() => {
  window.clearTimeout(soon)
  soon = window.setTimeout(() => (moving.value = true), 250)
})
const arrived = () => {
  window.clearTimeout(soon)
  moving.value = false
}
router.afterEach(arrived)
router.onError(arrived)
const ROOMS = [
  ['/today', 'Today'],
  ['/bench', 'Bench'],
  ['/work', 'Work'],
  ['/machines', 'Machines'],
  ['/readings', 'Readings'],
  ['/rigs', 'Rigs'],
  ['/library', 'Library'],
  ['/courses', 'Courses'],
  ['/classes', 'Classes'],
  ['/sheets', 'Sheets'],
  ['/marking', 'Marking'],
  ['/reference', 'Reference'],
] as const
const OF_ROLE: Record<string, readonly string[]> = {
  instructor: ROOMS.map(([to]) => to),
  assistant: ['/sheets', '/marking', '/rigs', '/refrigerant', '/reference'],
  apprentice: ['/mine', '/lab', '/reference'],
}
const rooms = computed(() =>
  [
    ...(user.value?.role === 'apprentice' ? [['/mine', 'Your papers'] as const, ['/lab', 'Lab'] as const] : []),
    ...ROOMS,
  ].filter(([to]) => OF_ROLE[user.value?.role ?? '']?.includes(to)),
)
watch(language, (now) => (document.documentElement.lang = now), { immediate: true })
const home = computed(() => OF_ROLE[user.value?.role ?? '']?.[0] ?? '/bench')
/** Pages a role may open; everything else leads home. The server refuses what lies behind them anyway. */
const mayOpen = computed(
  () =>
    user.value?.role === 'instructor' ||
    [
      ...(OF_ROLE[user.value?.role ?? ''] ?? []),
      '/feedback',
      '/password',
      '/lab/',
      '/play/',
      '/vote',
      '/platform/join',
    ].some((to) => route.path.startsWith(to)),
)
watch([inside, ready, () => route.path], () => {
  if (ready.value && inside.value && !bare.value && !mayOpen.value) void router.replace(home.value)
})

/** Past the rooms, to what stands on the page. */
function skip(): void {
  const main = document.querySelector('main')
  main?.setAttribute('tabindex', '-1')
  main?.focus()
}
async function leave(): Promise<void> {
  await logOut()
}
onMounted(async () => {
  // The class's screen has a token of its own and asks for nothing else.
  if (bare.value) return
  try {
    await readSession()
  } catch (error) {
    failure.value = sentence(error)
  }
})
</script>

<template>
  <RouterView v-if="bare" />
  <p v-else-if="failure" class="page error">{{ failure }}</p>
  <LoginPage v-if="!bare && known && !inside" :again="everIn" />
  <div v-if="!bare && (everIn || inside)" v-show="inside">
    <header :class="['top', { moving }]">
      <a href="#" class="skip" @click.prevent="skip">{{ tr('Skip to the page') }}</a>
      <RouterLink :to="home" class="mark"><img src="/icon.svg" alt="" width="26" height="26" />Wolfsbane</RouterLink>
      <nav aria-label="Rooms">
        <template v-if="!user?.must_change"
          ><RouterLink v-for="[to, name] in rooms" :key="to" :to="to">{{ tr(name) }}</RouterLink></template
        >
      </nav>
      <span class="grow" />
      <select
        v-if="user?.role === 'apprentice' && !user.must_change"
        class="tongue"
        :value="language"
        :aria-label="tr('Language')"
        data-test="language"
        @change="chooseLanguage(($event.target as HTMLSelectElement).value as 'en' | 'es')"
      >
        <option v-for="[id, name] in LANGUAGES" :key="id" :value="id" :lang="id">{{ name }}</option>
      </select>
      <fieldset class="units">
        <legend class="off">{{ tr('Units') }}</legend>
        <label :class="{ on: units === 'us' }"><input v-model="units" type="radio" value="us" />°F · psi</label>
        <label :class="{ on: units === 'si' }"><input v-model="units" type="radio" value="si" />°C · kPa</label>
      </fieldset>
      <RouterLink v-if="user?.role === 'instructor'" to="/accounts" class="who"
        >{{ user?.name }}<small>{{ user?.school }}</small></RouterLink
      >
      <RouterLink v-else to="/password" class="who" title="Your account"
        >{{ user?.name }}<small>{{ user?.school }}</small></RouterLink
      >
      <button class="leave" @click="leave">{{ tr('Log out') }}</button>
    </header>
    <main v-if="user?.must_change" class="page"><PasswordForm first /></main>
    <RouterView v-else v-slot="{ Component }">
      <component :is="Component" v-if="Component && mayOpen" />
      <PageSkeleton v-else-if="!ready" :title="askedTitle" />
    </RouterView>
    <AskDialog /><UndoBar />
  </div>
</template>

<style scoped>
.top {
  display: flex;
  align-items: center;
  gap: 2px 12px;
  min-height: 50px;
  padding: 0 14px;
  flex-wrap: wrap;
  background: var(--card);
  border-bottom: 2px solid var(--violet);
}
.top.moving {
  border-bottom-style: dashed;
}
.mark {
  display: flex;
  align-items: center;
  gap: 8px;
  font-weight: 700;
  font-size: 19px;
  color: var(--ink);
  text-decoration: none;
  letter-spacing: -0.01em;
}
nav {
  display: flex;
  gap: 2px;
  flex-wrap: wrap;
}
@media (max-width: 1100px) {
  .top {
    padding-top: 6px;
    row-gap: 4px;
  }
  nav {
    order: 9;
    width: 100%;
  }
  nav a {
    padding: 6px 8px;
  }
}
nav a {
  padding: 8px 9px;
  font-size: 14.5px;
  color: var(--ink);
  text-decoration: none;
  border-radius: 3px;
}
@media (min-width: 1101px) and (max-width: 1380px) {
  nav {
    gap: 0;
  }
  nav a {
    padding: 8px 6px;
  }
}
@media (max-width: 760px) {
  nav {
    flex-wrap: nowrap;
    overflow-x: auto;
  }
  nav a {
    white-space: nowrap;
  }
}
nav a:hover {
  background: var(--violet-soft);
}
nav a.router-link-active {
  font-weight: 700;
  color: var(--violet);
  box-shadow: inset 0 -3px var(--violet);
  border-radius: 0;
}
.grow {
  flex: 1;
}
.tongue {
  font: inherit;
  font-size: 14px;
  padding: 3px 24px 3px 6px;
}
.units {
  display: flex;
  border: 1px solid var(--edge);
  border-radius: 3px;
  padding: 0;
  margin: 0;
  overflow: hidden;
}
.units label {
  padding: 4px 7px;
  cursor: pointer;
  font-size: 13px;
  white-space: nowrap;
}
.units label.on {
  background: var(--violet);
  color: var(--white);
}
.units input {
  position: absolute;
  opacity: 0;
  width: 1px;
}
.units label:focus-within {
  outline: 3px solid var(--violet);
  outline-offset: -3px;
}
.who {
  font-size: 14px;
  line-height: 1.15;
  text-align: right;
  color: var(--ink);
  text-decoration: none;
}
.who small {
  display: block;
  color: var(--ink-soft);
  font-size: 12px;
}
.leave {
  white-space: nowrap;
  background: none;
  border: 1px solid var(--edge);
  border-radius: 3px;
  padding: 5px 10px;
  cursor: pointer;
  color: var(--ink);
}
</style>
