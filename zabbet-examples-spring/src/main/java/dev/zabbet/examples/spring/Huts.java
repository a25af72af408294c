package dev.zabbet.examples.spring;

import org.springframework.data.jpa.repository.JpaRepository;

/** The huts. */
public interface Huts extends JpaRepository<Hut, Long> {}
