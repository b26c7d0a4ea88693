import { Refusal } from '../kit/server';
import type { Catalogue } from './catalogue';
import type { Attributes, Resource } from './resource';

/**
 * Whether what a machine is to be made of is at its site, and fits on its disk.
 * @param captured the images that were captured there or copied there
 * @returns the captured one; undefined: it is one that the provider offers
 */
export function imageFor(
  { sites }: Catalogue,
  captured: readonly Resource[],
  siteCode: string,
  attrs: Attributes,
): Resource | undefined {
  const site = sites.find((one) => one.code === siteCode);
  const offered = site?.images.find((one) => one.name === attrs.image);
  const own = captured.find((one) => one.name === attrs.image);
  const needs = offered?.diskGiB ?? (own && Number(own.attrs.gib));
  if (needs === undefined)
    throw new Refusal(422, 'no-such-image', `${String(attrs.image)} is not at ${site?.name ?? siteCode}`);
  if (Number(attrs.diskGiB) < needs)
    throw new Refusal(422, 'disk-too-small', `${String(attrs.image)} needs ${needs} GiB`);
  return offered ? undefined : own;
}

/**
 * Whether a host has room where it is to be. @param hosts the others that are there
 * @throws Refusal 409 when the quota or the node is full, 422 for what is not offered
 */
export function checkRoom(
  { sites, sizes }: Catalogue,
  hosts: readonly Resource[],
  siteCode: string,
  attrs: Attributes,
): void {
  const site = sites.find((one) => one.code === siteCode);
  const size = sizes.find((one) => one.key === attrs.size);
  if (!site || !size)
    throw new Refusal(422, 'no-such-size', `${String(attrs.size)} is not offered at ${siteCode}`);
  const sizeOf = (host: Resource): { vcpu: number; memoryGiB: number; family?: string } =>
    sizes.find((one) => one.key === host.attrs.size) ?? { vcpu: 0, memoryGiB: 0 };
  if (site.vcpuQuota !== null) {
    const used = hosts.reduce((sum, host) => sum + sizeOf(host).vcpu, 0);
    if (used + size.vcpu > site.vcpuQuota)
      throw new Refusal(409, 'quota', `quota of ${site.vcpuQuota} vCPU at ${site.name} is used up`);
    const { family } = size;
    const most = family === undefined ? undefined : site.familyQuotas?.[family];
    const own = hosts.filter((host) => sizeOf(host).family === family);
    if (most !== undefined && own.reduce((sum, host) => sum + sizeOf(host).vcpu, 0) + size.vcpu > most)
      throw new Refusal(409, 'quota', `quota of ${most} vCPU of ${family ?? ''} at ${site.name} is used up`);
    return;
  }
  const node = site.nodes.find((one) => one.id === attrs.node);
  if (!node) throw new Refusal(422, 'no-such-node', `${String(attrs.node)} is not a node of ${site.name}`);
  const memory = hosts
    .filter((host) => host.attrs.node === node.id)
    .reduce((sum, host) => sum + sizeOf(host).memoryGiB, 0);
  if (memory + size.memoryGiB > node.memoryGiB)
    throw new Refusal(409, 'node-full', `${node.id} has no room for ${size.memoryGiB} GiB`);
}
