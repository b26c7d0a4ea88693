-- How full each site is, counted from the index alone.
ALTER TABLE observed ADD KEY how_full (kind, site_code, node, size, state);
