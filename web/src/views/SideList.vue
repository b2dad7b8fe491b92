<script setup lang="ts">
import { computed, ref } from 'vue'
import { useRoute } from 'vue-router'
import { sentence, type View } from '@/api/client'
import { number } from '@/platform/format'
import PanelButton from '@/platform/PanelButton.vue'
import { useSession } from '@/people/session'
import { useCatalogue } from '@/registers/catalogue'
import { useSetup } from '@/setup/setup'
import { useArrangement } from './arrangement'
import ArrangePanel from './ArrangePanel.vue'
import ListLine from './ListLine.vue'
import ListSection from './ListSection.vue'
import { useViews } from './store'
import ListEdge from './ListEdge.vue'

/** The list of views and registers beside every page. */
defineProps<{ trouble: string }>()
/** a place was chosen */
const emit = defineEmits<{ gone: [] }>()
const session = useSession()
const views = useViews()
const catalogue = useCatalogue()
const setup = useSetup()
const arrangement = useArrangement()
const route = useRoute()

const mishap = ref('')
async function movePin(id: string, by: -1 | 1) {
  mishap.value = ''
  try {
    await views.movePin(id, by)
  } catch (e) {
    mishap.value = sentence(e)
  }
}
const pinTitle = (id: string, name: string) =>
  `${name}${views.besides[id] ? `: ${views.besides[id]}` : ''}. Alt with the arrows moves it.`
const total = (key: string) => (key in catalogue.totals ? number(catalogue.totals[key]!) : '')
/** Those that are listed, and the one that is open in any case. */
const registers = computed(() =>
  arrangement.ordered.filter((r) => !arrangement.isHidden(r.key) || route.path === `/registers/${r.key}`),
)
const hidden = computed(() => catalogue.names.length - arrangement.listed.length)

interface Section {
  name: string
  heading: string
  views: View[]
  /** how many more there are than are listed */
  more: number
  rest: string
  title: (view: View) => string
}
const own = computed<Section[]>(() =>
  [
    {
      name: 'mine',
      heading: 'Mine',
      views: views.shortMine,
      more: views.mine.length - views.shortMine.length,
      rest: '/views?whose=mine',
      title: (v: View) => v.name,
    },
    {
      name: 'colleagues',
      heading: 'From colleagues',
      views: views.shortFromColleagues,
      more: views.fromColleagues.length - views.shortFromColleagues.length,
      rest: '/views',
      title: (v: View) => `${v.name}, from ${v.owner.fullName}`,
    },
  ].filter((s) => s.views.length),
)

function clicked(event: MouseEvent) {
  if ((event.target as HTMLElement).closest('a')) emit('gone')
}
</script>

<template>
  <nav class="list" aria-label="Views and registers" @click="clicked">
    <p v-if="trouble || mishap" class="notice" role="alert">{{ trouble || mishap }}</p>
    <ListSection v-if="views.pins.length" name="pinned" heading="Pinned" :lines="views.pins.length">
      <ListLine
        v-for="p in views.pins"
        :key="p.id"
        :to="`/views/${p.id}`"
        :name="p.name"
        :count="views.counts[p.id] ?? ''"
        :title="pinTitle(p.id, p.name)"
        @keydown.alt.up.prevent="movePin(p.id, -1)"
        @keydown.alt.down.prevent="movePin(p.id, 1)"
      />
    </ListSection>
    <ListSection
      v-for="list in views.fromTeams"
      :key="list.team"
      :name="`team-${list.team}`"
      :heading="list.name"
      :lines="list.views.length"
    >
      <ListLine
        v-for="p in list.views"
        :key="p.id"
        :to="`/views/${p.id}`"
        :name="p.name"
        :count="views.counts[p.id] ?? ''"
      />
    </ListSection>
    <ListSection
      v-for="s in own"
      :key="s.name"
      :name="s.name"
      :heading="s.heading"
      :lines="s.views.length + s.more"
    >
      <ListLine
        v-for="v in s.views"
        :key="v.id"
        :to="`/views/${v.id}`"
        :name="v.name"
        :count="views.counts[v.id] ?? ''"
        :title="s.title(v)"
      />
      <li v-if="s.more > 0">
        <RouterLink :to="s.rest" class="rest">and {{ s.more }} more</RouterLink>
      </li>
    </ListSection>
    <ListSection name="registers" heading="Registers" :lines="catalogue.names.length">
      <template #act>
        <PanelButton name="Arrange the registers" :width="340" placement="bottom-start" class="word arrange">
          <template #button>arrange</template>
          <ArrangePanel />
        </PanelButton>
      </template>
      <ListLine
        v-for="r in registers"
        :key="r.key"
        :to="`/registers/${r.key}`"
        :name="r.label"
        :count="total(r.key)"
      />
      <li v-if="hidden" class="rest">{{ hidden }} not listed</li>
    </ListSection>
    <ul class="foot">
      <ListLine to="/views" name="All views" />
      <ListLine
        v-if="views.needing.length"
        to="/views?only=attention"
        name="Need attention"
        class="needing"
        :count="number(views.needing.length)"
      />
      <ListLine to="/catalogue" name="Catalogue" within />
      <ListLine v-if="setup.steps.some((s) => s.state === 'OPEN')" to="/setup" name="Set up" />
      <ListLine v-if="session.readsEverything" to="/people" name="People" within />
      <ListLine v-if="session.isAdministrator" to="/jobs" name="Jobs" />
    </ul>
    <ListEdge />
  </nav>
</template>

<style scoped>
.list {
  background: var(--paper);
  border-right: 1px solid var(--rule);
  padding: 10px 10px 20px 14px;
  overflow: auto;
}

ul {
  list-style: none;
  margin: 22px 0 0;
  padding: 0;
}

.rest {
  display: block;
  padding: 3px 11px;
  color: var(--ink-2);
  font-style: italic;
  text-decoration: none;
}

a.rest:hover {
  background: var(--head);
}

.list :deep(.arrange) {
  font-weight: 400;
  font-size: 13px;
  padding: 0 6px;
}

.needing :deep(a),
.needing :deep(.count) {
  color: var(--alert);
}

@media (max-width: 900px) {
  .list {
    display: none;
  }

  .menu-open > .list {
    display: block;
    position: absolute;
    z-index: 5;
    top: var(--top);
    bottom: 0;
    width: 250px;
    box-shadow: var(--shadow);
  }
}
</style>
