import { memo, useContext, useLayoutEffect, useRef, type ComponentProps, type ReactNode } from 'react'
import type { ObjectSchema } from '../../api/schema'
import { CameraGoes } from '../bench/elements'
import { KeyedField } from '../time/KeyMark'
import { optionsOf, ParameterControl, plays } from './controls'

/** Meanings of numbers that name things. */
const NAMES = new Set(['elements', 'element', 'behind', 'filled-by', 'step', 'lens-step', 'own-matte', 'limit-matte', 'part-matte', 'normal-pass'])

/** What a light stays with while the camera goes: of no matter where it never does. */
const STAYS_WITH = 'stays-with'

interface Props {
  schema: ObjectSchema
  values: Record<string, unknown>
  defaults: Record<string, unknown>
  /** More at the end of a group. */
  after?: (group: string) => ReactNode
  /** What stands before all of them, and after. */
  lead?: ReactNode
  children?: ReactNode
  /** Whether it flows on in the columns that it stands in. */
  within?: boolean
  onPreview: (name: string, value: unknown) => void
  onCommit: (name: string, value: unknown, label: string) => void
}

/** Down a column as far as the deck is high, then into the next one; narrower than elsewhere, so that four fit. */
const FLOW =
  'flex h-full flex-col flex-wrap content-start gap-x-2 gap-y-0.5 [&_label>span:first-child]:w-[74px] [&_.field]:w-[74px] [&_input.figures]:w-[80px] [&_input.figures]:pl-0.5 [&_[role=group]>button]:px-1 [&_[role=radiogroup]>button]:px-1'

type ControlProps = ComponentProps<typeof ParameterControl>

/** A control is drawn anew with its own value only: what it calls is always the newest, and its options follow from its schema. */
const Control = memo(ParameterControl, (a: ControlProps, b: ControlProps) => a.name === b.name && a.schema === b.schema && a.root === b.root && a.value === b.value && a.reset === b.reset)

/** Controls of all parameters that play a part, by group. */
export function Parameters({ schema, values, defaults, after, lead, children, within = false, onPreview, onCommit }: Props) {
  const latest = useRef({ onPreview, onCommit })
  useLayoutEffect(() => {
    latest.current = { onPreview, onCommit }
  })
  const goes = useContext(CameraGoes)
  const matters = (meaning: string | undefined) => goes || meaning !== STAYS_WITH
  const properties = Object.entries(schema.properties ?? {}).filter(([, s]) => plays(s, values) && matters(s['x-meaning']))
  const groups = [...new Set(properties.map(([, s]) => s['x-group'] ?? ''))]
  return (
    <div className={within ? 'contents' : FLOW} data-parameters>
      {lead}
      {groups.map((group) => (
        <div key={group} className="contents">
          {properties
            .filter(([, s]) => (s['x-group'] ?? '') === group)
            .map(([name, property]) => (
              <KeyedField key={name} name={name} label={property['x-label'] ?? name} names={NAMES.has(property['x-meaning'] ?? '')} value={values[name]}>
              <Control
                name={name}
                schema={property}
                root={schema}
                value={values[name]}
                reset={defaults[name]}
                options={optionsOf(property, schema)}
                onPreview={(v) => latest.current.onPreview(name, v)}
                onCommit={(v) => latest.current.onCommit(name, v, `Set ${(property['x-label'] ?? name).toLowerCase()}`)}
              />
              </KeyedField>
            ))}
          {after?.(group)}
        </div>
      ))}
      {children}
    </div>
  )
}
