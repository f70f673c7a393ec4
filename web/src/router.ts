import { createRouter, createWebHistory } from 'vue-router'

import { BenchLayout } from './features/bench'
import { BriefView } from './features/brief'
import { CompareView } from './features/compare'
import { DrillsView } from './features/drills'
import { FitView } from './features/fit'
import { HomesView } from './features/homes'
import { HouseView } from './features/house'
import { KitRecordView } from './features/kit-record'
import { RoundsView } from './features/rounds'
import { SetupsView } from './features/setups'
import { WatchView } from './features/watch'

export const router = createRouter({
  history: createWebHistory(),
  routes: [
    { path: '/', name: 'homes', component: HomesView },
    { path: '/kit-record', name: 'kit-record', component: KitRecordView },
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
        { path: 'fit', name: 'fit', component: FitView },
        { path: 'drills', name: 'drills', component: DrillsView },
        { path: 'watch', name: 'watch', component: WatchView },
      ],
    },
    { path: '/:rest(.*)*', redirect: '/' },
  ],
})
