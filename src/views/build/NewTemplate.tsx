import { useState } from 'react';
import type { Template } from '../../contract';
import { STARTERS, starterOn, writeTemplate } from '../../core/templates';
import { get, newKey, send, whyOf, ApiProblem } from '../../client/api';
import { Button } from '../../ui/Button';
import { SelectField, TextField } from '../../ui/Field';
import type { MarkLook } from '../../ui/Mark';
import { Panel } from '../../ui/Panel';
import styles from './Template.module.css';

interface Props {
  readonly templates: readonly Template[];
  readonly marks: Readonly<Record<string, MarkLook>>;
  readonly images: readonly string[];
}

/** Begins a draft: of one to begin with, or as another template is. */
export function NewTemplate({ templates, marks, images }: Props) {
  const [code, setCode] = useState('');
  const [owner, setOwner] = useState('');
  const [from, setFrom] = useState(`starter ${STARTERS[0]?.code ?? ''}`);
  const [image, setImage] = useState(images[0] ?? '');
  const [problem, setProblem] = useState<string>();
  const begin = async (): Promise<void> => {
    setProblem(undefined);
    try {
      const text = await beginning(from, image);
      const body = { text, owner, before: 0 };
      await send('PUT', '/templates/{template}/draft', { template: code }, { body, key: newKey() });
      location.assign(`/build/templates/${code}`);
    } catch (error) {
      setProblem(error instanceof ApiProblem ? (error.fields.template ?? whyOf(error)) : whyOf(error));
    }
  };
  const isTaken = templates.some((one) => one.code === code);
  return (
    <Panel title="New template">
      <form
        className={styles.new}
        onSubmit={(event) => {
          event.preventDefault();
          void begin();
        }}
      >
        <TextField
          label="Code"
          value={code}
          autoFocus
          autoComplete="off"
          placeholder="like branch-office"
          error={isTaken ? 'there is one of that code' : problem}
          onChange={(event) => setCode(event.target.value.toLowerCase())}
        />
        <SelectField label="For" value={owner} onChange={(event) => setOwner(event.target.value)}>
          <option value="">every customer</option>
          {Object.keys(marks)
            .filter((one) => one !== 'MSP')
            .sort()
            .map((one) => (
              <option key={one} value={one}>
                {one} alone
              </option>
            ))}
        </SelectField>
        <SelectField label="Begin with" value={from} onChange={(event) => setFrom(event.target.value)}>
          {STARTERS.map((one) => (
            <option key={one.code} value={`starter ${one.code}`}>
              {one.name}
            </option>
          ))}
          {templates.map((one) => (
            <option key={one.code} value={`template ${one.code}`}>
              as {one.name} is
            </option>
          ))}
        </SelectField>
        {from.startsWith('starter ') && (
          <SelectField label="Image" value={image} onChange={(event) => setImage(event.target.value)}>
            {images.map((one) => (
              <option key={one}>{one}</option>
            ))}
          </SelectField>
        )}
        <div>
          <Button kind="main" type="submit" isDisabled={isTaken || code === ''}>
            Begin
          </Button>
        </div>
      </form>
    </Panel>
  );
}

async function beginning(from: string, image: string): Promise<string> {
  const [kind = '', code = ''] = from.split(' ');
  const starter = STARTERS.find((one) => one.code === code);
  if (kind === 'starter' && starter) return writeTemplate(starterOn(starter, image));
  const { text, draft } = await get('/templates/{template}', { template: code });
  return text === '' ? (draft?.text ?? '') : text;
}
