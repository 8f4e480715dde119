-- Links for a new password were kept in clear here; new ones are kept as hashes in one_time_link.
DELETE FROM verification WHERE identifier LIKE 'reset-password:%';
