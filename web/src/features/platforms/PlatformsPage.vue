<script setup lang="ts">
/** Learning platforms: what their form asks of us, who they are, and which of their courses is which class. */
import { onMounted, ref } from 'vue'
import { useRoute } from 'vue-router'
import { api, ask, named, type Schemas } from '@/api/client'
import { askFirst } from '@/shared/asking'
import { kept } from '@/shared/kept'
import { localTime } from '@/shared/session'

type Listed = Schemas['PlatformList']
const FIELDS = {
  name: ['Name', 'what you call it', false],
  issuer: ['Issuer', 'https://…', true],
  client_id: ['Client ID', 'our name there', false],
  deployments: ['Deployment IDs', 'one or more, with commas', false],
  login_url: ['Log-in address', 'OIDC authentication request', true],
  token_url: ['Token address', 'access token', true],
  keys_url: ['Key set address', 'JWKS', true],
} as const
type Field = keyof typeof FIELDS
const LABELS = Object.fromEntries(Object.entries(FIELDS).map(([field, [label]]) => [field, label]))
const OURS = {
  start: 'Log-in (initiation) address',
  launch: 'Launch (redirect) address',
  keys: 'Public key set',
} as const

const route = useRoute()
const listed = ref<Listed | null>(null)
const classes = ref<Schemas['ClassRow'][]>([])
const form = kept<Record<Field, string>>('platform.form', {
  name: '',
  issuer: '',
  client_id: '',
  deployments: '',
  login_url: '',
  token_url: '',
  keys_url: '',
})
const adding = ref(false)
const failure = ref('')
const said = ref('')
const busy = ref(0)

async function run(work: () => Promise<Listed | string>): Promise<void> {
  failure.value = said.value = ''
  try {
    const found = await work()
    if (typeof found === 'string') {
      said.value = found
      listed.value = await ask(api.GET('/api/v1/lti/platforms'))
    } else listed.value = found
    classes.value = (await ask(api.GET('/api/v1/classes'))).classes
  } catch (error) {
    failure.value = named(error, LABELS)
  }
}
const add = () =>
  run(async () => {
    const { deployments, ...rest } = form.value
    const ids = deployments
      .split(/[,\s]+/)
      .map((d) => d.trim())
      .filter(Boolean)
    const found = await ask(api.POST('/api/v1/lti/platforms', { body: { ...rest, deployments: ids } }))
    for (const field of Object.keys(FIELDS) as Field[]) form.value[field] = ''
    adding.value = false
    return found
  })
async function remove(p: Schemas['PlatformRow']): Promise<void> {
  const sure = await askFirst({
    title: `Remove ${p.name}?`,
    lines: ['Nobody gets in from it any more. Classes, people and marks stay here.'],
    yes: 'Remove it',
  })
  const path = { params: { path: { platform_id: p.id } } }
  if (sure) await run(() => ask(api.DELETE('/api/v1/lti/platforms/{platform_id}', path)))
}
const of = (c: Schemas['PlatformCourse']) => ({ params: { path: { platform_course_id: c.id } } })
const isClass = (c: Schemas['PlatformCourse'], value: string) =>
  run(() =>
    ask(
      api.PUT('/api/v1/lti/courses/{platform_course_id}', {
        ...of(c),
        body: value === 'new' ? { class_id: null, new: true } : { class_id: value ? Number(value) : null, new: false },
      }),
    ),
  )
async function takeNames(c: Schemas['PlatformCourse']): Promise<void> {
  busy.value = c.id
  await run(async () => {
    const done = await ask(api.POST('/api/v1/lti/courses/{platform_course_id}/names', of(c)))
    return `${c.title}: ${done.added} added, ${done.there} were there, ${done.left} left.`
  })
  busy.value = 0
}
onMounted(async () => {
  await run(() => ask(api.GET('/api/v1/lti/platforms')))
  adding.value = listed.value?.platforms.length === 0
})
</script>

<template>
  <main class="page">
    <div class="page-head">
      <h1>Learning platforms</h1>
      <el-button v-if="!adding" data-test="add" @click="adding = true">Add a platform</el-button>
    </div>
    <p v-if="failure" class="error" role="alert">{{ failure }}</p>
    <p v-if="said" role="status">{{ said }}</p>
    <div v-if="listed" class="two">
      <div>
        <section class="card" aria-labelledby="courses">
          <h2 id="courses">Courses</h2>
          <p v-if="!listed.courses.length" class="soft">
            A course shows here once an instructor has opened Wolfsbane from it. Apprentices get in after you say which
            class it is.
          </p>
          <table v-else class="list rows">
            <thead>
              <tr>
                <th>Course</th>
                <th>Class here</th>
                <th>Names</th>
              </tr>
            </thead>
            <tbody>
              <tr
                v-for="c in listed.courses"
                :key="c.id"
                data-test="course"
                :class="{ now: route.query.course === String(c.id) }"
              >
                <td>
                  {{ c.title }}<small class="soft state">{{ c.platform }}</small>
                </td>
                <td>
                  <select
                    :value="c.class_id ?? ''"
                    :aria-label="`Class of ${c.title}`"
                    @change="isClass(c, ($event.target as HTMLSelectElement).value)"
                  >
                    <option value="">not yet</option>
                    <option v-if="!c.class_id" value="new">a new class, “{{ c.title }}”</option>
                    <option v-for="k in classes" :key="k.id" :value="k.id">
                      {{ k.name }}{{ k.term ? `, ${k.term}` : '' }}
                    </option>
                  </select>
                </td>
                <td>
                  <el-button
                    size="small"
                    data-test="names"
                    :loading="busy === c.id"
                    :disabled="!c.class_id || !c.lists_names"
                    @click="takeNames(c)"
                    >Import names</el-button
                  ><small class="soft state">{{
                    c.names_at
                      ? `${c.people} linked, imported ${localTime(c.names_at)}`
                      : c.lists_names
                        ? `${c.people} linked`
                        : 'the platform does not share them'
                  }}</small>
                </td>
              </tr>
            </tbody>
          </table>
        </section>
        <section v-if="listed.platforms.length" class="card" aria-labelledby="known">
          <h2 id="known">Platforms</h2>
          <table class="list rows">
            <tbody>
              <tr v-for="p in listed.platforms" :key="p.id">
                <td>
                  {{ p.name }}<small class="soft state">{{ p.issuer }} · {{ p.deployments.join(', ') }}</small>
                </td>
                <td class="soft">{{ p.courses }} courses, {{ p.people }} people</td>
                <td class="right"><el-button size="small" @click="remove(p)">Remove</el-button></td>
              </tr>
            </tbody>
          </table>
        </section>
        <form v-if="adding" class="card" @submit.prevent="add">
          <h2>Add a platform</h2>
          <p class="soft">
            As its own page for LTI 1.3 tools shows it. Whoever administers the platform can read it out.
          </p>
          <div class="fields">
            <label v-for="([label, hint, wide], field) in FIELDS" :key="field" :class="['field', { wide }]"
              ><span>{{ label }}</span
              ><el-input v-model="form[field]" :name="field" :placeholder="hint" maxlength="400" autocomplete="off"
            /></label>
          </div>
          <el-button
            type="primary"
            native-type="submit"
            data-test="enter"
            :disabled="Object.values(form).some((v) => !v.trim())"
            >Add</el-button
          >
          <el-button @click="adding = false">Close</el-button>
        </form>
      </div>
      <section class="card" aria-labelledby="ours">
        <h2 id="ours">What the platform asks of us</h2>
        <dl>
          <template v-for="(label, end) in OURS" :key="end"
            ><dt>{{ label }}</dt>
            <dd>
              <code>{{ listed.addresses[end] }}</code>
            </dd></template
          >
        </dl>
        <p class="soft">
          LTI 1.3. Let it open in a new window, share names (Names and Roles) and take points (Assignments and Grades).
          The first time an instructor opens it from a course, they link their own account.
        </p>
      </section>
    </div>
  </main>
</template>

<style scoped>
.two {
  display: grid;
  grid-template-columns: minmax(0, 1fr) 330px;
  gap: 14px;
  align-items: start;
}
.two > div {
  display: grid;
  gap: 14px;
}
.state {
  display: block;
}
.now td {
  background: var(--violet-soft);
}
.fields {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 0 14px;
}
.wide {
  grid-column: 1 / -1;
}
dt {
  font-weight: 600;
}
dd {
  margin: 2px 0 12px;
}
code {
  overflow-wrap: anywhere;
  user-select: all;
}
@media (max-width: 800px) {
  .two {
    grid-template-columns: minmax(0, 1fr);
  }
}
</style>
