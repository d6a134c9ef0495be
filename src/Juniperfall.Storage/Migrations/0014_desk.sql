-- What is to be left of a price of a product at the least, in percent of it.
alter table product add column least_margin numeric(5, 2) check (least_margin >= 0 and least_margin < 100);
