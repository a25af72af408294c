package dev.zabbet.schema;

/**
 * A check constraint.
 *
 * @param name the constraint's name; empty if the database gives none
 * @param text the condition as the database reports it
 */
public record Check(String name, String text) {}
