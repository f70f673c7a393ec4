import { createRouter, createWebHistory } from 'vue-router'

import { BenchLayout } from './features/bench'
import { BriefView } from './features/brief'
import { CompareView } from './features/compare'
import { HomesView } from './features/homes'
import { HouseView } from './features/house'
import { RoundsView } from './features/rounds'
import { SetupsView } from './features/setups'

export const router = createRouter({
  history: createWebHistory(),
  routes: [
    { path: '/', name: 'homes', component: HomesView },
    {
      path: '/homes/:home',
      component: BenchLayout,
      children: [
        { path: '', redirect: (to) => ({ name: 'brief', params: to.params }) },
        { path: 'brief', name: 'brief', component: BriefView },
        { path: 'house', name: 'house', component: HouseView },
        { path: 'setups', name: 'setups', component: SetupsView },
        { path: 'rounds/:round?', name: 'rounds', component: RoundsView },
        { path: 'compare', name: 'compare', component: CompareView },
      ],
    },
    { path: '/:rest(.*)*', redirect: '/' },
  ],
})
