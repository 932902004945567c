package org.holtra.service.credentials;

/** A credential is good for something again, such as after its owner consented. */
public record CredentialTouched(String name) {}
