INSERT INTO hut (name, beds) VALUES ('Edelgrat', 24);
