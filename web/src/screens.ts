import {
  BookOpen,
  Boxes,
  ClipboardList,
  DraftingCompass,
  NotebookPen,
  Printer,
  Ruler,
  Shapes,
  TowerControl,
  Waypoints,
  type LucideIcon,
} from 'lucide-react'
import type { ComponentType } from 'react'
import { ahead } from './api/ahead'

/** A screen's code, once it is there. */
export type Load = () => Promise<{ default: ComponentType }>

export interface Screen {
  path: string
  label: string
  /** The letter that follows g. */
  key: string
  icon: LucideIcon
  load: Load
  /** On a phone it stands at the bottom; the others are in the drawer. */
  atHand?: boolean
  /** Asks for what it will show, while its code is on the way. */
  ask?: () => void
}

/** The screens of the rail. Its links, the addresses, the key list and the search are made from this. */
export const SCREENS: readonly Screen[] = [
  {
    path: '/',
    label: 'Bench',
    key: 'b',
    icon: Ruler,
    atHand: true,
    load: () => import('./bench/Bench'),
    ask: ahead.bench,
  },
  {
    path: '/cases',
    label: 'Cases',
    atHand: true,
    key: 'c',
    icon: NotebookPen,
    load: () => import('./cases/CaseList'),
    ask: ahead.cases,
  },
  {
    path: '/recipes',
    label: 'Recipes',
    key: 'r',
    icon: ClipboardList,
    load: () => import('./recipes/RecipeScreen'),
  },
  {
    path: '/trials',
    label: 'Trials',
    atHand: true,
    key: 't',
    icon: TowerControl,
    load: () => import('./trials/TrialsScreen'),
    ask: ahead.trials,
  },
  {
    path: '/measure',
    label: 'Measure',
    atHand: true,
    key: 'e',
    icon: DraftingCompass,
    load: () => import('./measure/Measure'),
  },
  {
    path: '/parts',
    label: 'Parts',
    key: 'a',
    icon: Shapes,
    load: () => import('./parts/PartsScreen'),
    ask: ahead.parts,
  },
  {
    path: '/paths',
    label: 'Paths',
    key: 'p',
    icon: Waypoints,
    load: () => import('./paths/PathsScreen'),
    ask: ahead.paths,
  },
  {
    path: '/shelf',
    label: 'Shelf',
    key: 's',
    icon: Boxes,
    load: () => import('./shelf/Shelf'),
    ask: ahead.shelf,
  },
  {
    path: '/machines',
    label: 'Machines',
    key: 'm',
    icon: Printer,
    load: () => import('./machines/Machines'),
    ask: ahead.machines,
  },
  {
    path: '/handbook',
    label: 'Handbook',
    key: 'h',
    icon: BookOpen,
    load: () => import('./handbook/Handbook'),
  },
]
