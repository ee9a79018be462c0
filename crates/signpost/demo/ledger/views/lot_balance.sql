-- Read by the kiosk's look-up screen.
CREATE VIEW lot_balance AS
SELECT lot, sum(seeds) AS seeds
FROM movement
GROUP BY lot;
