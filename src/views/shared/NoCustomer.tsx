import { Empty } from '../../ui/Panel';

/** What a page across customers shows to those who reach none, with what to do about it. */
export function NoCustomer() {
  return (
    <Empty says="You reach no customer yet.">
      <p>
        <a href="/customers/new">Take one on</a>, or ask a lead for those that you look after: they show here
        as soon as they are yours.
      </p>
    </Empty>
  );
}
