-- Sessions are listed newest first.
ALTER TABLE session_seen ADD KEY newest (since, id), ADD KEY newest_of_customer (customer_id, since, id);
