<script setup lang="ts">
import type { Stop } from '../../api/types'
import { stopWord } from '../../shared/words'

defineProps<{ stops: Stop[]; homeId: string }>()

const stateWord = { untouched: 'not begun', open: 'open', done: 'done' }
</script>

<template>
  <nav aria-label="Route of the job">
    <ol>
      <li v-for="(stop, index) in stops" :key="stop.name">
        <router-link :to="{ name: stop.name, params: { home: homeId } }">
          <i :class="stop.state" aria-hidden="true" />
          <b :data-key="index + 1">{{ stopWord[stop.name] }}</b>
          <span>{{ stop.note }}</span>
          <span class="visually-hidden">({{ stateWord[stop.state] }})</span>
        </router-link>
      </li>
    </ol>
  </nav>
</template>

<style scoped>
nav {
  grid-area: rail;
  width: 150px;
  border-right: 1px solid var(--line);
  padding-top: 10px;
}

ol {
  list-style: none;
  padding: 0;
}

a {
  display: block;
  position: relative;
  padding: 9px 8px 9px 34px;
  text-decoration: none;
}

a b {
  display: block;
  font-weight: 500;
  font-size: 0.9rem;
}

a span {
  display: block;
  font-size: 0.75rem;
  color: var(--quiet);
}

a.router-link-active {
  background: #fff;
}

a.router-link-active b {
  font-weight: 700;
}

i {
  position: absolute;
  left: 13px;
  top: 14px;
  width: 11px;
  height: 11px;
  border: 2px solid var(--quiet);
  background: var(--paper);
  z-index: 1;
}

i.open {
  border-color: var(--comb);
  background: linear-gradient(0deg, var(--comb) 50%, var(--paper) 50%);
}

i.done {
  background: var(--leaf);
  border-color: var(--leaf);
}

li:not(:last-child) a::after {
  content: '';
  position: absolute;
  left: 18px;
  top: 25px;
  bottom: -14px;
  width: 1px;
  background: var(--line);
}

@media (max-width: 1180px) {
  nav {
    width: 92px;
  }

  a {
    padding: 9px 4px 9px 28px;
  }

  a span {
    display: none;
  }

  i {
    left: 9px;
  }

  li:not(:last-child) a::after {
    left: 14px;
  }
}

@media (max-width: 900px) {
  nav {
    width: auto;
    border-right: 0;
    border-bottom: 1px solid var(--line);
    padding: 0;
  }

  ol {
    display: flex;
    overflow-x: auto;
  }

  a {
    padding: 8px 10px 8px 30px;
    min-height: 48px;
  }

  a span {
    display: none;
  }

  i {
    left: 10px;
  }

  li a::after {
    display: none;
  }
}
</style>
