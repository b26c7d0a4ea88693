import type { CustomerScope } from '../access';
import type { Connection } from '../db';

/** Whose something was that was there is kept no more. */
export const forgetPersons = (tx: Connection, { customer }: CustomerScope): Promise<number> =>
  tx.write(
    `UPDATE present_resource SET attributes = JSON_SET(attributes, '$.person', '')
     WHERE customer_id = ? AND JSON_EXISTS(attributes, '$.person')`,
    [customer.id],
  );
