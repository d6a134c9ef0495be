-- The site and the day that a configuration and a structure are for; null for none in particular.

alter table configuration add column site text, add column date date;
alter table structure add column site text, add column date date;
