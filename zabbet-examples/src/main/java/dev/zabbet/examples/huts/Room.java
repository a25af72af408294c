package dev.zabbet.examples.huts;

/** A room of a hut, numbered within it. */
public record Room(long hutId, int number, int beds) {}
