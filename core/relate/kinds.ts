import type { RelationKind, RelationRule } from '../level/relation'
import type { RelationDefinition } from './definition'
import { apart } from './kinds/apart'
import { between } from './kinds/between'
import { facing } from './kinds/facing'
import { flush } from './kinds/flush'
import { on } from './kinds/on'
import { same } from './kinds/same'

/** Every kind of relation, in the order in which they are offered. */
export const RELATIONS: { [K in RelationKind]: RelationDefinition<K> } = { on, flush, apart, between, facing, same }

/** What there is to know of a rule's kind. */
export const definitionOf = (rule: RelationRule) => RELATIONS[rule.kind] as RelationDefinition<RelationKind>
