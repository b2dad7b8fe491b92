package deftlens.server.people;

import java.time.Instant;
import java.util.List;
import java.util.Optional;
import org.springframework.data.jpa.repository.Modifying;
import org.springframework.data.jpa.repository.Query;
import org.springframework.data.repository.Repository;
import org.springframework.transaction.annotation.Transactional;

interface TokenStore extends Repository<PersonalToken, Long> {
    PersonalToken save(PersonalToken token);

    Optional<PersonalToken> findByHashAndRevokedAtIsNull(String hash);

    List<PersonalToken> findByPersonIdAndRevokedAtIsNullOrderById(long personId);

    /** Notes a use, where none was noted since. */
    @Transactional
    @Modifying
    @Query(
            "update PersonalToken t set t.lastUsedAt = :now where t.id = :id and (t.lastUsedAt is null or t.lastUsedAt < :since)")
    void noteUse(long id, Instant now, Instant since);

    Optional<PersonalToken> findByIdAndPersonId(long id, long personId);

    List<PersonalToken> findByHashInAndRevokedAtIsNull(List<String> hashes);
}
