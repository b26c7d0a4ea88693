import { lazy, Suspense, useState } from 'react';
import { OWN_CODE } from '../../contract/own-code';
import { Button, ButtonLink } from '../../ui/Button';
import { SelectField, TextField } from '../../ui/Field';
import type { MarkLook } from '../../ui/Mark';
import { Panel } from '../../ui/Panel';
import { numberOrNone, useChangeForm } from '../shared/change-form';
import { Confirm } from '../shared/Confirm';
import { useInBrowser } from '../shared/use-in-browser';
import styles from './Images.module.css';
import { useSaved } from './use-saved';

const RecipeEditor = lazy(() => import('./RecipeEditor'));

interface Site {
  readonly code: string;
  readonly name: string;
  readonly sizes: readonly { readonly key: string; readonly name: string }[];
  readonly images: readonly { readonly name: string; readonly diskGiB: number }[];
}

/** Whose an image is to be: the MSP's own is for everyone. */
export interface Owner {
  readonly code: string;
  readonly name: string;
  readonly mark: MarkLook;
}

const FIRST_RECIPE = `steps:
  - install: Ostrel updates newest
    tries: 2
  - check: nothing waits for a restart
`;

/** Begins an image: what it is, what it begins from, and its recipe; all on one page. */
export function NewImage({
  sites,
  owners,
}: {
  readonly sites: readonly Site[];
  readonly owners: readonly Owner[];
}) {
  const [first] = sites;
  const { form, asked } = useChangeForm('new-image', {
    code: '',
    name: '',
    says: '',
    site: first?.code ?? '',
    from: first?.images[0]?.name ?? '',
    recipe: FIRST_RECIPE,
    keep: 2,
    size: first?.sizes[0]?.key ?? '',
    diskGiB: 128,
    licences: [],
  });
  const [whose, setWhose] = useState(owners[0]?.code);
  const owner = owners.find(({ code }) => code === whose);
  const { saved } = useSaved(whose ?? OWN_CODE);
  const [confirming, setConfirming] = useState(false);
  const inBrowser = useInBrowser();
  const input = asked.input as Readonly<Record<string, unknown>>;
  const here = sites.find((one) => one.code === input.site) ?? first;
  const errorOf = (name: string): string | undefined =>
    form.getFieldState(`input.${name}`, form.formState).error?.message;
  const isComplete =
    input.code !== '' && input.name !== '' && Object.keys(form.formState.errors).length === 0;
  return (
    <div className={styles.columns}>
      <Panel title="A new image">
        <div className={styles.form}>
          <div className={styles.pair}>
            <TextField
              label="Code"
              help="as pools name it"
              autoComplete="off"
              spellCheck={false}
              error={errorOf('code')}
              {...form.register('input.code')}
            />
            <TextField
              label="Name"
              autoComplete="off"
              error={errorOf('name')}
              {...form.register('input.name')}
            />
          </div>
          {owners.length > 1 && (
            <SelectField
              label="For"
              help={whose === OWN_CODE ? undefined : 'kept, built and paid for by them; nobody else sees it'}
              value={whose}
              onChange={(event) => setWhose(event.target.value)}
            >
              {owners.map(({ code, name }) => (
                <option key={code} value={code}>
                  {code === OWN_CODE ? 'everyone' : `${code} ${name}`}
                </option>
              ))}
            </SelectField>
          )}
          <TextField
            label="What it is for"
            autoComplete="off"
            error={errorOf('says')}
            {...form.register('input.says')}
          />
          <div className={styles.pair}>
            <SelectField label="Built at" {...form.register('input.site')}>
              {sites.map((one) => (
                <option key={one.code} value={one.code}>
                  {one.name}
                </option>
              ))}
            </SelectField>
            <SelectField label="From" {...form.register('input.from')}>
              {here?.images.map((one) => (
                <option key={one.name}>{one.name}</option>
              ))}
            </SelectField>
          </div>
          <div className={styles.pair}>
            <SelectField label="On a machine of" {...form.register('input.size')}>
              {here?.sizes.map((one) => (
                <option key={one.key} value={one.key}>
                  {one.name}
                </option>
              ))}
            </SelectField>
            <TextField
              label="Disk, in GiB"
              inputMode="numeric"
              error={errorOf('diskGiB')}
              {...form.register('input.diskGiB', { setValueAs: numberOrNone })}
            />
            <TextField
              label="Older versions kept"
              inputMode="numeric"
              error={errorOf('keep')}
              {...form.register('input.keep', { setValueAs: numberOrNone })}
            />
          </div>
          <TextField
            label="Programs that need a licence for each person"
            help="by name, a comma between"
            autoComplete="off"
            error={errorOf('licences')}
            {...form.register('input.licences', { setValueAs: namesIn })}
          />
          <div className={styles.actions}>
            <ButtonLink href="/build/images">Back</ButtonLink>
            <Button kind="main" isDisabled={!isComplete} onPress={() => setConfirming(true)}>
              Begin it…
            </Button>
          </div>
        </div>
      </Panel>
      <Panel title="Its recipe">
        {inBrowser ? (
          <Suspense fallback={<p>Opening the recipe …</p>}>
            <RecipeEditor
              before={FIRST_RECIPE}
              saved={saved.map(({ name }) => name)}
              onText={(recipe) => form.setValue('input.recipe', recipe, { shouldValidate: true })}
            />
          </Suspense>
        ) : (
          <p>Opening the recipe …</p>
        )}
        {errorOf('recipe') !== undefined && (
          <p role="alert" className={styles.problem}>
            {errorOf('recipe')}
          </p>
        )}
      </Panel>
      {confirming && owner && (
        <Confirm
          customer={owner}
          change={{ kind: 'new-image', verb: 'Begin', what: `the image ${String(input.name)}`, input }}
          onClose={() => setConfirming(false)}
          onBegun={() => location.assign(`/build/images/${String(input.code)}`)}
        />
      )}
    </div>
  );
}

/** `Alder, Birch` as the names in it. */
const namesIn = (typed: unknown): readonly string[] =>
  Array.isArray(typed)
    ? typed.map(String)
    : String(typed ?? '')
        .split(',')
        .map((one) => one.trim())
        .filter((one) => one !== '');
