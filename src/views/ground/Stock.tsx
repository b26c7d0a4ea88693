import { useState } from 'react';
import type { Shelf } from '../../contract';
import { Button } from '../../ui/Button';
import { Dialog } from '../../ui/Dialog';
import { SelectField, TextField } from '../../ui/Field';
import type { Changing } from '../shared/changing';

export interface ShelfSite {
  readonly code: string;
  readonly name: string;
  readonly sizes: readonly string[];
  readonly images: readonly { readonly name: string; readonly diskGiB: number }[];
}

interface Props {
  readonly sites: readonly ShelfSite[];
  readonly sizes: Readonly<Record<string, string>>;
  /** The shelf that is changed; undefined: another one is made. */
  readonly before: Shelf | undefined;
  readonly onClose: () => void;
  readonly onAsked: (ask: { readonly environment?: string; readonly change: Changing }) => void;
}

/** What is kept ready, how many, and for how much; what comes of it, the next dialog shows. */
export function Stock({ sites, sizes, before, onClose, onAsked }: Props) {
  const [site, setSite] = useState(sites[0]?.code ?? '');
  const here = sites.find((one) => one.code === site);
  const [size, setSize] = useState('');
  const [image, setImage] = useState('');
  const [disk, setDisk] = useState('128');
  const [hosts, setHosts] = useState(String(before?.wanted ?? 2));
  const [most, setMost] = useState(before?.most ?? '');
  const stock = { hosts: Number(hosts), most: most.trim() === '' ? null : most.trim() };
  const isCount = /^\d{1,3}$/.test(hosts.trim());
  const isMoney = stock.most === null || /^\d{1,7}(\.\d{1,2})?$/.test(stock.most);
  const isDisk = /^[1-9]\d{0,4}$/.test(disk.trim());
  const next = (): void => {
    if (before)
      onAsked({
        environment: before.environment,
        change: { kind: 'change-stock', verb: 'Change', what: 'how many are kept ready', input: stock },
      });
    else
      onAsked({
        change: {
          kind: 'stock-shelf',
          verb: 'Keep ready',
          what: `hosts at ${here?.name ?? site}`,
          input: {
            site,
            size: size === '' ? (here?.sizes[0] ?? '') : size,
            image: image === '' ? (here?.images[0]?.name ?? '') : image,
            diskGiB: Number(disk),
            ...stock,
          },
        },
      });
  };
  return (
    <Dialog
      open
      onClose={onClose}
      title={before ? `How many are kept ready at ${before.siteName}?` : 'Keep hosts ready'}
      actions={
        <>
          <Button onPress={onClose}>Back</Button>
          <Button kind="main" isDisabled={!isCount || !isMoney || !isDisk} onPress={next}>
            See what comes of it
          </Button>
        </>
      }
    >
      {!before && (
        <>
          <SelectField label="Site" value={site} onChange={(event) => setSite(event.target.value)}>
            {sites.map((one) => (
              <option key={one.code} value={one.code}>
                {one.name}
              </option>
            ))}
          </SelectField>
          <SelectField label="Image" value={image} onChange={(event) => setImage(event.target.value)}>
            {here?.images.map((one) => (
              <option key={one.name}>{one.name}</option>
            ))}
          </SelectField>
          <SelectField label="Size" value={size} onChange={(event) => setSize(event.target.value)}>
            {here?.sizes.map((one) => (
              <option key={one} value={one}>
                {sizes[one] ?? one}
              </option>
            ))}
          </SelectField>
          <TextField
            label="Disk, in GiB"
            help="as in the template that it is kept for: only a host that is the same is handed out"
            inputMode="numeric"
            value={disk}
            onChange={(event) => setDisk(event.target.value)}
            error={isDisk ? undefined : 'a whole number, from 1'}
          />
        </>
      )}
      <TextField
        label="Hosts"
        inputMode="numeric"
        value={hosts}
        onChange={(event) => setHosts(event.target.value)}
        error={isCount ? undefined : 'a whole number, up to 200'}
      />
      <TextField
        label="At most, a month"
        help="left empty: whatever they cost"
        inputMode="decimal"
        value={most}
        onChange={(event) => setMost(event.target.value)}
        error={isMoney ? undefined : 'write it like 120.00'}
      />
    </Dialog>
  );
}
