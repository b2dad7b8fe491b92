package deftlens.server.people;

import java.util.List;
import java.util.Optional;
import org.springframework.data.repository.Repository;

interface TokenStore extends Repository<PersonalToken, Long> {
    PersonalToken save(PersonalToken token);

    Optional<PersonalToken> findByHashAndRevokedAtIsNull(String hash);

    List<PersonalToken> findByPersonIdAndRevokedAtIsNullOrderById(long personId);

    Optional<PersonalToken> findByIdAndPersonId(long id, long personId);

    List<PersonalToken> findByHashInAndRevokedAtIsNull(List<String> hashes);
}
