-- When the credential was saved that a token was asked for with: one of another time is not presented. Null if a version asked that
-- did not note it.
alter table access_token add column credential_changed timestamptz;
update access_token set credential_changed = credential.changed from credential where credential.name = access_token.credential;
