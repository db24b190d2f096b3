using System;
using Microsoft.EntityFrameworkCore.Migrations;

#nullable disable

namespace Zamblo.Data.Migrations
{
    /// <inheritdoc />
    public partial class Rooms : Migration
    {
        /// <inheritdoc />
        protected override void Up(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.AddColumn<string>(
                name: "Anchor",
                table: "Sounds",
                type: "TEXT",
                nullable: false,
                defaultValue: "");

            migrationBuilder.AddColumn<Guid>(
                name: "LineId",
                table: "Sounds",
                type: "TEXT",
                nullable: true);

            migrationBuilder.AddColumn<Guid>(
                name: "TargetId",
                table: "Clips",
                type: "TEXT",
                nullable: true);

            migrationBuilder.CreateTable(
                name: "Hearings",
                columns: table => new
                {
                    Key = table.Column<string>(type: "TEXT", nullable: false),
                    ProductionId = table.Column<Guid>(type: "TEXT", nullable: false),
                    LineId = table.Column<Guid>(type: "TEXT", nullable: false),
                    Query = table.Column<string>(type: "TEXT", nullable: false),
                    State = table.Column<int>(type: "INTEGER", nullable: false),
                    Error = table.Column<string>(type: "TEXT", nullable: true),
                    Asked = table.Column<DateTime>(type: "TEXT", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_Hearings", x => x.Key);
                });

            migrationBuilder.CreateTable(
                name: "LineVoices",
                columns: table => new
                {
                    Id = table.Column<Guid>(type: "TEXT", nullable: false),
                    LineId = table.Column<Guid>(type: "TEXT", nullable: false),
                    CastMemberId = table.Column<Guid>(type: "TEXT", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_LineVoices", x => x.Id);
                    table.ForeignKey(
                        name: "FK_LineVoices_CastMembers_CastMemberId",
                        column: x => x.CastMemberId,
                        principalTable: "CastMembers",
                        principalColumn: "Id",
                        onDelete: ReferentialAction.Restrict);
                    table.ForeignKey(
                        name: "FK_LineVoices_Lines_LineId",
                        column: x => x.LineId,
                        principalTable: "Lines",
                        principalColumn: "Id",
                        onDelete: ReferentialAction.Restrict);
                });

            migrationBuilder.CreateTable(
                name: "Traces",
                columns: table => new
                {
                    ProductionId = table.Column<Guid>(type: "TEXT", nullable: false),
                    Revision = table.Column<long>(type: "INTEGER", nullable: false),
                    Touched = table.Column<string>(type: "TEXT", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_Traces", x => new { x.ProductionId, x.Revision });
                    table.ForeignKey(
                        name: "FK_Traces_Productions_ProductionId",
                        column: x => x.ProductionId,
                        principalTable: "Productions",
                        principalColumn: "Id",
                        onDelete: ReferentialAction.Cascade);
                });

            // Who speaks in unison: ids in one text become rows.
            migrationBuilder.Sql(
                """
                WITH RECURSIVE voices(LineId, Member, Rest) AS (
                    SELECT Id, '', Also || ' ' FROM Lines WHERE Also <> ''
                    UNION ALL
                    SELECT LineId, substr(Rest, 1, instr(Rest, ' ') - 1), substr(Rest, instr(Rest, ' ') + 1) FROM voices WHERE Rest <> '')
                INSERT INTO LineVoices (Id, LineId, CastMemberId)
                SELECT upper(substr(h, 1, 8) || '-' || substr(h, 9, 4) || '-4' || substr(h, 14, 3) || '-8' || substr(h, 18, 3) || '-' || substr(h, 21, 12)), LineId, Member
                FROM (SELECT hex(randomblob(16)) AS h, LineId, upper(Member) AS Member FROM voices)
                WHERE Member IN (SELECT Id FROM CastMembers);
                """);
            // Looks at somebody: the id in the name becomes a key. In copies of a production it named members of the original; theirs have the same role and order.
            migrationBuilder.Sql(
                """
                UPDATE Clips SET TargetId = (
                    SELECT own.Id FROM CastMembers named JOIN CastMembers own ON own.RoleName = named.RoleName AND own."Order" = named."Order"
                    WHERE named.Id = upper(Clips.Name) AND own.ProductionId = (SELECT ProductionId FROM Scenes WHERE Scenes.Id = Clips.SceneId))
                WHERE Kind = 2 AND length(Name) = 36;
                DELETE FROM Clips WHERE Kind = 2 AND length(Name) = 36 AND TargetId IS NULL;
                UPDATE Clips SET Name = 'member' WHERE TargetId IS NOT NULL;
                """);
            // What a take refers to lies in the store.
            migrationBuilder.Sql("UPDATE Takes SET SpeechHash = NULL WHERE SpeechHash IS NOT NULL AND SpeechHash NOT IN (SELECT Hash FROM Assets);");

            migrationBuilder.DropColumn(
                name: "HandRevision",
                table: "Productions");

            migrationBuilder.DropColumn(
                name: "Also",
                table: "Lines");

            migrationBuilder.CreateIndex(
                name: "IX_Takes_SpeechHash",
                table: "Takes",
                column: "SpeechHash");

            migrationBuilder.CreateIndex(
                name: "IX_Sounds_LineId",
                table: "Sounds",
                column: "LineId");

            migrationBuilder.CreateIndex(
                name: "IX_Clips_TargetId",
                table: "Clips",
                column: "TargetId");

            migrationBuilder.CreateIndex(
                name: "IX_Hearings_ProductionId",
                table: "Hearings",
                column: "ProductionId");

            migrationBuilder.CreateIndex(
                name: "IX_LineVoices_CastMemberId",
                table: "LineVoices",
                column: "CastMemberId");

            migrationBuilder.CreateIndex(
                name: "IX_LineVoices_LineId",
                table: "LineVoices",
                column: "LineId");

            migrationBuilder.AddForeignKey(
                name: "FK_Clips_CastMembers_TargetId",
                table: "Clips",
                column: "TargetId",
                principalTable: "CastMembers",
                principalColumn: "Id",
                onDelete: ReferentialAction.Restrict);

            migrationBuilder.AddForeignKey(
                name: "FK_Sounds_Lines_LineId",
                table: "Sounds",
                column: "LineId",
                principalTable: "Lines",
                principalColumn: "Id",
                onDelete: ReferentialAction.Restrict);

            migrationBuilder.AddForeignKey(
                name: "FK_Takes_Assets_SpeechHash",
                table: "Takes",
                column: "SpeechHash",
                principalTable: "Assets",
                principalColumn: "Hash",
                onDelete: ReferentialAction.Restrict);
        }

        /// <inheritdoc />
        protected override void Down(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.DropForeignKey(
                name: "FK_Clips_CastMembers_TargetId",
                table: "Clips");

            migrationBuilder.DropForeignKey(
                name: "FK_Sounds_Lines_LineId",
                table: "Sounds");

            migrationBuilder.DropForeignKey(
                name: "FK_Takes_Assets_SpeechHash",
                table: "Takes");

            migrationBuilder.DropTable(
                name: "Hearings");

            migrationBuilder.DropTable(
                name: "LineVoices");

            migrationBuilder.DropTable(
                name: "Traces");

            migrationBuilder.DropIndex(
                name: "IX_Takes_SpeechHash",
                table: "Takes");

            migrationBuilder.DropIndex(
                name: "IX_Sounds_LineId",
                table: "Sounds");

            migrationBuilder.DropIndex(
                name: "IX_Clips_TargetId",
                table: "Clips");

            migrationBuilder.DropColumn(
                name: "Anchor",
                table: "Sounds");

            migrationBuilder.DropColumn(
                name: "LineId",
                table: "Sounds");

            migrationBuilder.DropColumn(
                name: "TargetId",
                table: "Clips");

            migrationBuilder.AddColumn<long>(
                name: "HandRevision",
                table: "Productions",
                type: "INTEGER",
                nullable: false,
                defaultValue: 0L);

            migrationBuilder.AddColumn<string>(
                name: "Also",
                table: "Lines",
                type: "TEXT",
                nullable: false,
                defaultValue: "");
        }
    }
}
