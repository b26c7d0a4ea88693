/** The templates of the scenario, as their engineers wrote them. */

const OFFICE = (disk: string, more: string): string => `# Most customers begin with this one.
name: Shared office
says: One shared pool of desktops for office work, with profiles on a share
naming: '{customer}-{environment}{counter:2}'
inputs:
  - key: work
    title: What they do
    type: choice
    choices: [light, standard, heavy, graphics]
    usual: standard
    short: true
pools:
  - role: desks
    image: Ostrel 12 multi-user
    people: =people
    profile: =work
${disk}    items:
      - name: Full desktop
        kind: desktop
      - name: Tallybrook
      - name: Murrelmail
${more}`;

export const SHARED_OFFICE = OFFICE('', '');

/** What was said anew of it: drives may cross, and there is more room for what people keep. */
export const SHARED_OFFICE_LATER = OFFICE(
  '    shareGiBPerPerson: 15\n',
  '    crosses: [clipboard, printers, drives]\n',
);

export const DESKS_AND_LAB = `name: Desks and lab
says: A pool of desktops for everyone, and a pool of strong hosts for the few who reckon and draw
naming: '{customer}-{role}{counter:2}'
called: works
inputs:
  - key: work
    title: What they do
    help: at the desks; in the lab it is heavy
    type: choice
    choices: [light, standard, heavy]
    usual: standard
    short: true
pools:
  - role: desks
    image: Ostrel 12 multi-user
    people: =people
    profile: =work
    items:
      - name: Full desktop
        kind: desktop
      - name: Tallybrook
      - name: Murrelmail
  - role: lab
    image: Ostrel Server 9
    people: =people * 0.25
    profile: heavy
    arrival: fill
    mostSeats: 8
    diskGiB: 256
    shareGiBPerPerson: 40
    items:
      - name: Contourwick
      - name: Tidewarden
`;

/** Three pools: for everyone, for those who draw, and for those who try what is new. */
export const STUDIO = `name: Studio
says: Desktops for everyone, strong ones of their own for those who draw, and a pilot
naming: '{customer}-{role}{counter:2}'
called: studio
tags:
  use: studio
inputs:
  - key: drawers
    title: People who draw
    help: each has a host of their own
    type: count
    most: 60
    usual: 4
    short: true
  - key: pilot
    title: With a pilot pool
    help: it tries what is new first
    type: yes
    usual: true
pools:
  - role: office
    image: office
    people: =people
    items:
      - name: Full desktop
        kind: desktop
      - name: Tallybrook
  - role: draw
    kind: personal
    image: Ostrel 12 multi-user
    people: =drawers
    profile: graphics
    size: at least 4 vCPU · 16 GiB
    diskGiB: 256
    ownDiskGiB: 64
    shareGiBPerPerson: 20
    ceilingFactor: 1.5
    items:
      - name: Full desktop
        kind: desktop
      - name: Contourwick
    crosses: [clipboard, printers, drives, usb]
    may: [start, restart, sleep, rebuild]
  - role: pilot
    when: =pilot
    image: office
    track: trial
    people: =people * 0.1
    spare: 0
    items:
      - name: Full desktop
        kind: desktop
`;

export const TEMPLATES = [
  { code: 'shared-office', note: 'first revision', text: SHARED_OFFICE },
  { code: 'desks-and-lab', note: 'first revision', text: DESKS_AND_LAB },
  { code: 'studio', note: 'first revision', text: STUDIO },
] as const;
