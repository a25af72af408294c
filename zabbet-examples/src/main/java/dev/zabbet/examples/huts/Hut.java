package dev.zabbet.examples.huts;

import java.time.LocalDate;

/** A hut in a region. */
public record Hut(long id, long regionId, String name, int altitudeM, int beds, LocalDate openedOn) {}
