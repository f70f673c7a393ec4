import type { Want } from '../api/types'

/** What a family may want besides speed, as it is offered and told. */
export const WANTS: { value: Want; title: string }[] = [
  { value: 'child_rules', title: 'rules for children' },
  { value: 'own_vpn', title: 'own VPN' },
  { value: 'smart_home_hub', title: 'smart-home hub' },
  { value: 'schedules', title: 'schedules' },
  { value: 'guest_network', title: 'guest network' },
  { value: 'full_control', title: 'full control' },
]
