package dev.zabbet.spring.huts;

import org.springframework.data.jpa.repository.JpaRepository;

/** The huts. */
public interface Huts extends JpaRepository<Hut, Long> {}
