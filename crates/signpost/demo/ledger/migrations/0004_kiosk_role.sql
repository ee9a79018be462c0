CREATE ROLE kiosk;
GRANT SELECT, INSERT ON lot, movement TO kiosk;
