import {
  closestCenter,
  DndContext,
  KeyboardSensor,
  PointerSensor,
  useSensor,
  useSensors,
  type Announcements,
  type DragEndEvent,
} from '@dnd-kit/core';
import {
  arrayMove,
  SortableContext,
  sortableKeyboardCoordinates,
  useSortable,
  verticalListSortingStrategy,
} from '@dnd-kit/sortable';
import { CSS } from '@dnd-kit/utilities';
import { useState } from 'react';
import { GripVertical, Plus, X } from 'lucide-react';
import { STEP_VERB_KEYS, STEP_VERBS, stepLine, type RecipeStep, type StepVerb } from '../../core/recipes';
import { Button } from '../../ui/Button';
import { LongField, SelectField, TextField } from '../../ui/Field';
import styles from './Recipe.module.css';

interface Props {
  readonly steps: readonly RecipeStep[];
  /** Names of saved steps. */
  readonly saved: readonly string[];
  readonly onChange: (steps: readonly RecipeStep[]) => void;
}

/** What is said of a step that is moved, for who does not see it. */
const SAID: Announcements = {
  onDragStart: ({ active }) => `Step ${active.id} is taken up`,
  onDragOver: ({ active, over }) => `Step ${active.id} is over place ${over?.id ?? active.id}`,
  onDragEnd: ({ active, over }) => `Step ${active.id} is at place ${over?.id ?? active.id}`,
  onDragCancel: ({ active }) => `Step ${active.id} stays where it was`,
};
const HOW = {
  draggable:
    'Space takes a step up, the arrow keys move it, Space puts it down, Escape leaves it where it was.',
};

/** What each verb is told. */
const WHAT: Readonly<Record<StepVerb, string>> = {
  install: 'Program and version',
  copy: 'Files',
  set: 'Value',
  run: 'Script',
  wait: 'Until',
  check: 'That',
  use: 'Saved under',
};

/** The steps in order: dragged by their grips, with the mouse or the arrow keys, and filled in one at a time. */
export function RecipeList({ steps, saved, onChange }: Props) {
  const [open, setOpen] = useState<number>();
  const sensors = useSensors(
    useSensor(PointerSensor, { activationConstraint: { distance: 5 } }),
    useSensor(KeyboardSensor, { coordinateGetter: sortableKeyboardCoordinates }),
  );
  const ids = steps.map((_, n) => String(n + 1));
  const moved = ({ active, over }: DragEndEvent): void => {
    if (!over || active.id === over.id) return;
    setOpen(undefined);
    onChange(arrayMove([...steps], Number(active.id) - 1, Number(over.id) - 1));
  };
  const edit = (at: number, step: RecipeStep): void =>
    onChange(steps.map((one, n) => (n === at ? step : one)));
  const add = (): void => {
    onChange([
      ...steps,
      { verb: 'check', what: 'Tallybrook starts', to: '', holds: '', minutes: 5, tries: 1 },
    ]);
    setOpen(steps.length);
  };
  return (
    <>
      <DndContext
        sensors={sensors}
        collisionDetection={closestCenter}
        onDragEnd={moved}
        accessibility={{ announcements: SAID, screenReaderInstructions: HOW }}
      >
        <SortableContext items={ids} strategy={verticalListSortingStrategy}>
          <ol className={styles.steps}>
            {steps.map((step, n) => (
              <Row
                key={ids[n]}
                id={ids[n] ?? ''}
                step={step}
                saved={saved}
                isOpen={open === n}
                onOpen={() => setOpen(open === n ? undefined : n)}
                onEdit={(next) => edit(n, next)}
                onRemove={
                  steps.length > 1
                    ? () => {
                        setOpen(undefined);
                        onChange(steps.filter((_, at) => at !== n));
                      }
                    : undefined
                }
              />
            ))}
          </ol>
        </SortableContext>
      </DndContext>
      <div>
        <Button icon={<Plus size={15} aria-hidden="true" />} onPress={add}>
          Add a step
        </Button>
      </div>
    </>
  );
}

interface RowProps {
  readonly id: string;
  readonly step: RecipeStep;
  readonly saved: readonly string[];
  readonly isOpen: boolean;
  readonly onOpen: () => void;
  readonly onEdit: (step: RecipeStep) => void;
  readonly onRemove: (() => void) | undefined;
}

function Row({ id, step, saved, isOpen, onOpen, onEdit, onRemove }: RowProps) {
  const { attributes, listeners, setNodeRef, transform, transition } = useSortable({ id });
  return (
    <li
      ref={setNodeRef}
      className={styles.step}
      style={{ transform: CSS.Transform.toString(transform), transition: transition ?? undefined }}
    >
      <button
        type="button"
        className={styles.grip}
        {...attributes}
        {...listeners}
        aria-label={`Move step ${id}`}
      >
        <GripVertical size={16} aria-hidden="true" />
      </button>
      <span className={styles.number}>{id}</span>
      <button type="button" className={styles.says} aria-expanded={isOpen} onClick={onOpen}>
        <b>{step.verb}</b> {stepLine(step).slice(step.verb.length + 1)}
        <small>
          {step.verb === 'use'
            ? 'as they are saved when it is built'
            : [
                ...(step.holds === '' ? [] : [`then ${step.holds}`]),
                `at most ${step.minutes} min`,
                ...(step.tries > 1 ? [`${step.tries} tries`] : []),
              ].join(' · ')}
        </small>
      </button>
      {onRemove && (
        <button type="button" className={styles.grip} aria-label={`Remove step ${id}`} onClick={onRemove}>
          <X size={16} aria-hidden="true" />
        </button>
      )}
      {isOpen && <Fields step={step} saved={saved} onEdit={onEdit} />}
    </li>
  );
}

function Fields({ step, saved, onEdit }: Pick<RowProps, 'step' | 'saved' | 'onEdit'>) {
  const hasTo = step.verb === 'copy' || step.verb === 'set';
  const verb = (next: StepVerb): void =>
    onEdit({
      ...step,
      ...(next === 'use' ? { what: saved[0] ?? step.what, holds: '', tries: 1 } : {}),
      verb: next,
      to: next === 'copy' || next === 'set' ? step.to || '/' : '',
      minutes: STEP_VERBS[next].minutes,
    });
  const whole = (text: string, most: number): number | undefined =>
    /^\d{1,3}$/.test(text) && Number(text) >= 1 && Number(text) <= most ? Number(text) : undefined;
  return (
    <div className={styles.fields}>
      <SelectField
        label="Does"
        value={step.verb}
        onChange={(event) => verb(STEP_VERB_KEYS.find((one) => one === event.target.value) ?? 'check')}
      >
        {STEP_VERB_KEYS.filter((one) => one !== 'use' || saved.length > 0 || step.verb === 'use').map(
          (one) => (
            <option key={one} value={one}>
              {STEP_VERBS[one].says}
            </option>
          ),
        )}
      </SelectField>
      {step.verb === 'use' ? (
        <SelectField
          label={WHAT.use}
          value={step.what}
          onChange={(event) => onEdit({ ...step, what: event.target.value })}
        >
          {[...new Set([...saved, step.what])].map((one) => (
            <option key={one}>{one}</option>
          ))}
        </SelectField>
      ) : step.verb === 'run' ? (
        <LongField
          label={WHAT.run}
          mono
          rows={5}
          value={step.what}
          onChange={(event) => event.target.value !== '' && onEdit({ ...step, what: event.target.value })}
        />
      ) : (
        <TextField
          label={WHAT[step.verb]}
          value={step.what}
          autoComplete="off"
          onChange={(event) => event.target.value !== '' && onEdit({ ...step, what: event.target.value })}
        />
      )}
      {hasTo && (
        <TextField
          label={step.verb === 'copy' ? 'To' : 'Becomes'}
          value={step.to}
          autoComplete="off"
          onChange={(event) => onEdit({ ...step, to: event.target.value })}
        />
      )}
      {step.verb !== 'use' && (
        <>
          <TextField
            label="What holds then"
            value={step.holds}
            placeholder="nothing beyond"
            autoComplete="off"
            onChange={(event) => onEdit({ ...step, holds: event.target.value })}
          />
          <TextField
            label="Minutes, at most"
            inputMode="numeric"
            value={step.minutes}
            onChange={(event) => onEdit({ ...step, minutes: whole(event.target.value, 240) ?? step.minutes })}
          />
          <TextField
            label="Tries"
            inputMode="numeric"
            value={step.tries}
            onChange={(event) => onEdit({ ...step, tries: whole(event.target.value, 5) ?? step.tries })}
          />
        </>
      )}
    </div>
  );
}
