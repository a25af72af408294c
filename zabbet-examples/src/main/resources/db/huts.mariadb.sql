-- The tables of a ring of alpine huts, on MariaDB.

CREATE TABLE region (
    id      BIGINT AUTO_INCREMENT PRIMARY KEY,
    name    VARCHAR(80) NOT NULL UNIQUE,
    country CHAR(2) NOT NULL
);

CREATE TABLE hut (
    id         BIGINT AUTO_INCREMENT PRIMARY KEY,
    region_id  BIGINT NOT NULL REFERENCES region (id),
    warden_id  BIGINT,
    name       VARCHAR(80) NOT NULL UNIQUE,
    altitude_m INTEGER NOT NULL,
    beds       INTEGER NOT NULL,
    opened_on  DATE NOT NULL,
    amenities  JSON,
    CONSTRAINT hut_altitude CHECK (altitude_m BETWEEN 500 AND 4000),
    CONSTRAINT hut_beds CHECK (beds BETWEEN 4 AND 200)
);

CREATE TABLE warden (
    id        BIGINT AUTO_INCREMENT PRIMARY KEY,
    hut_id    BIGINT NOT NULL UNIQUE REFERENCES hut (id),
    full_name VARCHAR(120) NOT NULL,
    phone     VARCHAR(30)
);

-- A hut names its warden and a warden the hut: a cycle.
ALTER TABLE hut ADD CONSTRAINT hut_warden FOREIGN KEY (warden_id) REFERENCES warden (id);

CREATE TABLE room (
    hut_id BIGINT NOT NULL REFERENCES hut (id),
    number INTEGER NOT NULL,
    beds   INTEGER NOT NULL,
    PRIMARY KEY (hut_id, number),
    CONSTRAINT room_beds CHECK (beds BETWEEN 1 AND 30)
);

CREATE TABLE guest (
    id                   BIGINT AUTO_INCREMENT PRIMARY KEY,
    full_name            VARCHAR(120) NOT NULL,
    email                VARCHAR(120) NOT NULL UNIQUE,
    born                 DATE,
    emergency_contact_id BIGINT REFERENCES guest (id),
    password_hash        VARCHAR(100) NOT NULL
);

-- The room's reference shares hut_id with the hut's.
CREATE TABLE stay (
    id           BIGINT AUTO_INCREMENT PRIMARY KEY,
    hut_id       BIGINT NOT NULL REFERENCES hut (id),
    room_number  INTEGER NOT NULL,
    arrives      DATE NOT NULL,
    nights       INTEGER NOT NULL,
    status       VARCHAR(20) NOT NULL,
    price        NUMERIC(8, 2) NOT NULL,
    booked_at    DATETIME(6) DEFAULT CURRENT_TIMESTAMP(6) NOT NULL,
    cancelled_at DATETIME(6),
    CONSTRAINT stay_room FOREIGN KEY (hut_id, room_number) REFERENCES room (hut_id, number),
    CONSTRAINT stay_nights CHECK (nights BETWEEN 1 AND 14),
    CONSTRAINT stay_status CHECK (status IN ('REQUESTED', 'CONFIRMED', 'CANCELLED', 'DONE'))
);

CREATE TABLE stay_guest (
    stay_id  BIGINT NOT NULL REFERENCES stay (id),
    guest_id BIGINT NOT NULL REFERENCES guest (id),
    PRIMARY KEY (stay_id, guest_id)
);

CREATE TABLE ledger_entry (
    id         UUID PRIMARY KEY,
    stay_id    BIGINT NOT NULL REFERENCES stay (id),
    amount     NUMERIC(8, 2) NOT NULL,
    kind       VARCHAR(10) NOT NULL,
    entered_at DATETIME(6) NOT NULL,
    CONSTRAINT ledger_kind CHECK (kind IN ('CHARGE', 'REFUND'))
);
